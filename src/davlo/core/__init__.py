"""The contract: everything that Davlo works out, on NumPy alone."""
