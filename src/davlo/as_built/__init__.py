"""The site as it was built: whether its HTML pages show what was decided."""
