"""A page with a form: {= page.sentence.lower =}."""
