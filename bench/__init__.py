"""What ``./lathe bench`` measures: one module a theme, each with ``figures(quick)``."""
