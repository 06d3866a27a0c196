"""An estate: several sites that begin with the same declarations and defaults."""
