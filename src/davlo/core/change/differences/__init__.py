"""What two states of a site differ in, and why."""
