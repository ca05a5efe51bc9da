"""The demo: its own PostgreSQL cluster, the stand-in client sites, the demo portfolio, and what starts it all."""
