"""What of a person's traffic goes through a tunnel."""
