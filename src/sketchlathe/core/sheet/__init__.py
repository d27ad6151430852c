"""Sheets: dimensioned drawings of parts. What the lines of a sheet put on it, and where on the paper it goes."""
