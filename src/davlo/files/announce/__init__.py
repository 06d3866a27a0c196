"""Telling search engines which addresses changed, by the open protocol for that."""
