"""A table that is kept in the admin: a row is a {= table.sentence.lower =}."""
