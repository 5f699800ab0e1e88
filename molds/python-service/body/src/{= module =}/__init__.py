"""The service's code: service.py holds the application, each resource has a folder."""

NAME = "{= name =}"
