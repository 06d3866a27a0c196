"""Files of a site: reading, rewriting, storing, publishing."""
