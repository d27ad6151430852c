"""What a body amounts to: materials, weighing, and what a person expects of it."""
