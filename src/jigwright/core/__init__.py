"""Pure values and functions: no interface, files, threads, clock or database."""
