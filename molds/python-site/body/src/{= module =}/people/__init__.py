"""Who may sign in, and how."""
