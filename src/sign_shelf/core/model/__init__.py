"""What menus and sites are: documents, trees, templates, facts."""
