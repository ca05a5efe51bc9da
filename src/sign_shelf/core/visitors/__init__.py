"""Who sees what, when and why."""
