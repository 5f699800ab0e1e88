"""Who may write: accounts, and the tokens that they sign in for."""
