"""A site folder in: YAML, CSV, Parquet, databases and tables in memory."""
