"""The web application: knows HTTP, nothing of geometry. One blueprint an area of the product."""

from .app import Settings, create_app

__all__ = ["Settings", "create_app"]
