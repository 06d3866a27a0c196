"""What the shell completes, and the lists that it completes from."""
