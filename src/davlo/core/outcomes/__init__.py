"""Outcomes: what readers and search engines meet, worked out from effective values. One module a topic."""
