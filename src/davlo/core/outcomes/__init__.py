"""What readers, members and search engines see."""
