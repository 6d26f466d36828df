"""The command line: demo, test, bench, vectors, and each computation on files."""
