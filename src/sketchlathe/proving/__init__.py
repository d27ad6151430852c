"""Proof under fire: the service as people use it, while it is killed or crowded. Loopback only."""
