"""The steps that make the tables, one file each: `make migration FOR=...` writes the next one."""
