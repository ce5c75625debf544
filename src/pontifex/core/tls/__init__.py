"""Tunnels over TLS as octets in, octets out: a framing of our own around TLS (RFC 8446) for both ends of a rehearsal."""
