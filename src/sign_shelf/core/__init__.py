"""What is computed: pure functions over frozen models. Imports nothing else of ours."""
