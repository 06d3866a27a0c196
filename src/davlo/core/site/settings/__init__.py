"""Settings and their values: kinds, scopes, the catalogue."""
