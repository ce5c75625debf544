"""Tests of tunnels with static peer keys, octet by octet."""
