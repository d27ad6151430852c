"""Step kinds: one module each. A step declares its fields, its sentence and how it is built.

The sentence bar, the list of steps, the picking rules, help and the JSON Schema come from these declarations.
"""
