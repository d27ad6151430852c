"""The drawing tools, one module each."""
