"""Condensing: the fewest statements that give every page the values it has."""
