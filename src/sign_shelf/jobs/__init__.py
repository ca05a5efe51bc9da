"""Background work on procrastinate: the tasks, and the worker that runs them."""
