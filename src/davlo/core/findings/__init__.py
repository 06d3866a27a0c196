"""What `check` reports: one record for each kind of finding."""
