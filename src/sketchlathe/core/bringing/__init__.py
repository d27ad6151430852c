"""Bringing files in: one module a format. A reader says what endings it takes and what it gives; limits are its own."""

from .base import READERS, Brought, describe_readers, read_file

__all__ = ["READERS", "Brought", "describe_readers", "read_file"]
