"""The web application: knows HTTP, nothing of geometry. One blueprint an area of the product."""

from .app import create_app
from .settings import Settings

__all__ = ["Settings", "create_app"]
