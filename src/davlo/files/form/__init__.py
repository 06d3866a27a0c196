"""The form of a site's files: every key, what may stand after it, and what it is for."""
