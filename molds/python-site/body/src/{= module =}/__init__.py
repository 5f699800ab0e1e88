"""The site's code: settings.py says of what it consists, each area has a folder."""

NAME = "{= name =}"
