"""Parts, sketches and changes whose right answer is known by construction: for tests, and for
the benchmark to count.
"""
