"""States of a site in a git repository."""
