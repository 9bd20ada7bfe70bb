"""Stand-ins for services outside: invented, but real servers that speak the real protocols over HTTP, with the quirks of real ones."""
