"""Sentences and layouts for people, shared by the terminal, the notebook and reports."""
