"""What whoever runs the application says."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Provider:
    """A sign-in provider. ``title`` is what people call it."""

    issuer: str
    client: str
    secret: str
    title: str = "my organisation"


@dataclass(frozen=True)
class Settings:
    """What the application needs to know. ``demo_person`` is signed in by itself on loopback."""

    secret: str
    blobs: Path | str  # a folder, or s3://bucket/prefix?endpoint=...
    demo_person: str | None = None
    scripts: Path | None = None  # a folder for the pages' scripts put together; else they are served one by one
    secure_cookies: bool = True
    build_limit: float = 60.0
    sign_in_limit: str = "10 per 10 minutes"  # wrong passwords for one account; right ones are not counted
    address_limit: str = "60 per 10 minutes"  # wrong passwords, and new accounts, from one address: a class shares one
    redis: str = ""  # where several web processes and worker machines meet; empty for one process with its own workers
    proxies: int = 0  # trusted ones in front of us: who asks is what the outermost of them says
    site: str = ""  # what links in letters begin with: https://lathe.example
    post: str = ""  # where letters go: smtp://..., a folder, or nowhere
    sender: str = "lathe@localhost"
    sign_up: bool = True  # anybody may make an account
    passwords: bool = True  # accounts of this server; else only those of the provider
    provider: Provider | None = None
    printer_port: int = 0  # where a printer answers on loopback; 0 for none
