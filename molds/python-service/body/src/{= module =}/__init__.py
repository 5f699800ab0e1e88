"""The service's code. Start at __main__.py, add routes in routes.py."""

NAME = {= name.python =}
SUMMARY = {= summary.python =}
