"""Commands that change a site, each with its reach first."""
