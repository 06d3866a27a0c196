"""A site as it was built: its HTML pages and its sitemaps, read from disk. Nothing is run, and nothing is fetched."""
