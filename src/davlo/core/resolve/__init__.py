"""From statements to effective values: the fold, its sources, and why a value won."""
