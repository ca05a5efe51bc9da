"""How strong the tests are: faults are planted one by one, and each is to be caught.

`make mutants` plants 40, seeded, in core, application layer, store, HTTP interface and outline. For each it runs the tests that reach
the changed function, the quickest first, until one fails, for a minute at most.
"""
