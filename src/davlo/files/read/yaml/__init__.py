"""YAML files as nodes that know their places."""
