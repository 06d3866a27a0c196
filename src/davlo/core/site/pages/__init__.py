"""Pages: the tree, their details and types, and conditions that match them."""
