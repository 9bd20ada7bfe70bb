"""Writing the small files that a team keeps and passes on."""

from __future__ import annotations


def quoted(text: str) -> str:
    """A text as a TOML string."""
    escaped = "".join(f"\\u{ord(c):04x}" if ord(c) < 32 or ord(c) == 127 else c for c in text.replace("\\", "\\\\").replace('"', '\\"'))
    return f'"{escaped}"'
