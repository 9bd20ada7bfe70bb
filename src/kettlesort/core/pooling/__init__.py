"""Numbers of studies, and what they say together."""
