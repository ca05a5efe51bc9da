"""What goes to a site and comes back from it."""
