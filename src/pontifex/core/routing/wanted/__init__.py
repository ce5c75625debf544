"""What intents want of the paths, and the routes that would give it."""
