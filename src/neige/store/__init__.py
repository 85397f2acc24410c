"""Records and blobs in PostgreSQL. The only place that knows it."""
