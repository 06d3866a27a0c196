"""Tables in memory, in and out: pandas, pyarrow, Parquet."""
