"""Small stand-ins for what is outside: they ship with the program, for trying it and for its tests."""
