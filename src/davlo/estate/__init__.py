"""Several sites that begin with the same declarations and defaults: the same questions asked of all of them."""
