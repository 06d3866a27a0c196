"""Commands that begin a site, or make files for others."""
