"""IKEv2 as octets in, octets out (RFC 7296): payloads, keys, and the machine at either end of an IKE SA.

Pure: the time, the octets and the randomness are handed in.
"""
