"""People of this server: list, make, lock, unlock, a link for a new password, how much each may have."""

from __future__ import annotations

import argparse
import secrets

from ..core.errors import BadInput
from ..service.quotas import Holding
from . import say
from .backup import add_database, database_of


def _said(has: Holding) -> str:
    return f"{has.models:5} of {has.most_models} models {has.megabytes:9.2f} of {has.most_megabytes} MB"


def run(argv: list[str]) -> int:
    """``./lathe admin list | make NAME EMAIL | lock EMAIL | unlock EMAIL | reset EMAIL | quota EMAIL``"""
    from ..service import accounts

    parser = argparse.ArgumentParser(prog="lathe admin", description=__doc__)
    add_database(parser)
    parser.add_argument("--site", default="http://127.0.0.1:8420", help="what links begin with")
    what = parser.add_subparsers(dest="what", required=True)
    what.add_parser("list", help="everybody, with their models")
    make = what.add_parser("make", help="a new account; a link for its password is printed")
    make.add_argument("name")
    make.add_argument("email")
    for word, about in (
        ("lock", "shut an account and sign it out everywhere"), ("unlock", "open it again"),
        ("reset", "a link for a new password, good once and for a day"),
    ):  # fmt: skip
        what.add_parser(word, help=about).add_argument("email")
    quota = what.add_parser("quota", help="how much somebody may have; 0: as everybody")
    quota.add_argument("email")
    quota.add_argument("--models", type=int)
    quota.add_argument("--megabytes", type=int)
    options = parser.parse_args(argv)
    database = database_of(options.database)
    if options.what == "list":
        for person, has in accounts.everybody(database):
            state = "locked" if person.locked else f"since {person.created:%Y-%m-%d}"
            print(f"{person.name:24} {person.email:32} {_said(has)}  {state}")
        return 0
    if options.what == "quota":
        for given in (options.models, options.megabytes):
            if given is not None and not 0 <= given <= 10_000_000:
                raise BadInput("A quota is a number from 0 (as everybody) up.")
        say(_said(accounts.give_room(database, options.email, options.models, options.megabytes)))
        return 0
    if options.what in ("lock", "unlock"):
        person = accounts.lock(database, options.email, shut=options.what == "lock")
        say(f"{person.name} is {'locked' if person.locked else 'unlocked'}")
        return 0
    if options.what == "make":
        accounts.sign_up(database, options.name, options.email, secrets.token_urlsafe(24))
    token = accounts.reset_link(database, options.email)
    say(f"give this link to {options.email}; it is good once, for a day:\n{options.site}/new-password/{token}")
    return 0
