"""Commands that answer questions."""
