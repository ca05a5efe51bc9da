"""States of sites, changes as branches of states, and all that is worked out of them by merging."""
