"""The menu, and lists of links."""
