"""A change into edits of text: the only room that spells YAML and CSV."""
