"""The kinds of findings, a module a topic."""
