"""Notices: everybody reads them, people with an account write them."""
