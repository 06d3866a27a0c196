"""Folders that were made to do harm."""
