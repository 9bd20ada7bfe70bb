"""Data items and the values that people type for them."""

from __future__ import annotations
