"""Menus and pages drawn as they stand on a site."""
