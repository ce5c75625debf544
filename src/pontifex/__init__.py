"""Pontifex: design VPN tunnels with both ends in view, and know before the change window whether they come up."""
