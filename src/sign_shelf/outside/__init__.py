"""The world outside: one guarded client, reading of sites, the site protocol."""
