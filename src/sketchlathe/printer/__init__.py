"""The Practice printer: a small simulated printer. A program of its own, talked to over HTTP as with a real one."""
