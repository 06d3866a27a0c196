"""What may be done to a site, a step at a time, and the site after it."""
