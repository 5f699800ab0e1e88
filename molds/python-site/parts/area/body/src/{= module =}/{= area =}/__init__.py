"""An area for people with an account: {= area.sentence.lower =}."""
