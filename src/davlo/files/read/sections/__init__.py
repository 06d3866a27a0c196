"""The sections of davlo.yaml, a module each."""
