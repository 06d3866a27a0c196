"""Tables: the page list, statements in bulk, stamps, and what people paste."""
