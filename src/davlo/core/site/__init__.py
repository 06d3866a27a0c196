"""A site as it was read: the catalogue, the tree, details, declarations, people, statements."""
