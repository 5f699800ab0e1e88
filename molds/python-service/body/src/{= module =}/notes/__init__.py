"""The first resource: its storage, its HTTP and its tests. Copy it or replace it."""
