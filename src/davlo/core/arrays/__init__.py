"""Arrays that make a million pages cheap: codebooks, columns of codes, texts as bytes, finding paths, threads."""
