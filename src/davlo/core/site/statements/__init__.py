"""Statements as a table, and the pages that each is for."""
