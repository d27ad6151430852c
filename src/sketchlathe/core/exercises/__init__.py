"""Exercises: a part to be made after numbers of one's own, what is asked of it, and whether an answer is right.

``terms`` says what an exercise asks and reads it as a person typed it; ``numbers`` finds sets of numbers that differ
for everybody; ``judging`` holds a part against what it should come to; ``slips`` puts the reasons of many together.
"""
