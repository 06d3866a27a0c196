"""The commands about an estate: several sites that begin with the same declarations and defaults."""
