"""What a step sees while it is built and what comes of it: solids before it, picks found in them, bodies combined."""
