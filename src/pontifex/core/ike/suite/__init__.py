"""What each transform of the registry does, by the `cryptography` package or a few lines."""
