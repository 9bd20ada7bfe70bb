"""Services outside: asked politely, patiently, and never trusted."""
