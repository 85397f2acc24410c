"""The same jobs from a shell."""
