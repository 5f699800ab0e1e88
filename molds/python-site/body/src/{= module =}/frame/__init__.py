"""What stands around every page: the template, its style, the log, and the health of the site."""
