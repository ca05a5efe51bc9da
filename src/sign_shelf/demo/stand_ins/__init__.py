"""Stand-in client sites: real pages on loopback ports, their menus served and written by the site protocol."""
