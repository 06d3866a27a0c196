"""What a change does to a site: its reach, and the ways to change a value."""
