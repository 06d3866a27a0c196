"""The page record: all that is worked out for a page, each field declared once."""
