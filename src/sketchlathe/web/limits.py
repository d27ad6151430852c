"""Rate limits."""

from flask import current_app
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address

limiter = Limiter(get_remote_address, storage_uri="memory://")


def sign_in_limit() -> str:
    """How often one address may try to sign in or up."""
    return str(current_app.config["LATHE_SETTINGS"].sign_in_limit)
