"""Tunnels between two ends that know each other's static public key."""
