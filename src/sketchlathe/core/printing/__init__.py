"""Whether and how a part prints: readiness, how to lay it, layers, estimates, the file for the printer."""
