"""What readers, members and search engines meet."""
