"""The model: a JSON document, edits as pure functions on it, and builds as a cache over it."""
