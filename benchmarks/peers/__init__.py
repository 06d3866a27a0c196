"""The three ways an engineer would resolve a site by hand; each gives every value and its source, as Davlo does.

They know what `benchmarks.make` writes and no more: no presets, no references, lists that change on single pages alone.

    python -m benchmarks.peers.dictionaries SITE OUT.csv
    python -m benchmarks.peers.frames SITE OUT.parquet
    python -m benchmarks.peers.sql SITE OUT.parquet
"""
