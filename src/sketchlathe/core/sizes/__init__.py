"""Tables of sizes: threads, holes and nuts by standard, or a model's own values in their place."""
