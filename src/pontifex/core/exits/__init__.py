"""Exits: which address the outside sees for each workload, what becomes of it when tunnels are down, and in which order."""
