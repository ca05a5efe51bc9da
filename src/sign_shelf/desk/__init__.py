"""What people do: one module a task. Each checks permission, works in one transaction, and writes the ledger."""
