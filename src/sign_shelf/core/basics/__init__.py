"""What everything stands on: text, addresses, clocks, identities."""
