"""Looking at what was built: materials, Weigh & size, pictures."""
