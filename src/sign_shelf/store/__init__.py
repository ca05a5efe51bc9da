"""Records in PostgreSQL: tables, queries, migrations. One module a noun; rows do not leave this folder unread."""
