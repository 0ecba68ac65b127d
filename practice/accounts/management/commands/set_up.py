"""`manage.py set_up`: a server's first practice and its owner, where there is no screen."""

from __future__ import annotations

import os
from argparse import ArgumentParser
from getpass import getpass
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from mallet.terms.errors import InputError
from practice.accounts.owned import Refused
from practice.accounts.people import PLACES, set_up


class Command(BaseCommand):
    help = (
        "Set up the first practice of this server; the password is asked for, or taken from MALLET_PASSWORD."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("name")
        parser.add_argument("full_name")
        parser.add_argument("username")
        parser.add_argument("--zone", default="UTC")
        parser.add_argument("--place", choices=PLACES, default="elsewhere")
        parser.add_argument("--chairs", default="chair 1, chair 2", help="names, with commas between")

    def handle(self, *args: Any, **options: Any) -> None:
        password = os.environ.get("MALLET_PASSWORD") or getpass("Password: ")
        told = {name: options[name] for name in ("name", "full_name", "username", "zone", "place")}
        chairs = [chair.strip() for chair in options["chairs"].split(",") if chair.strip()]
        try:
            owner = set_up(**told, chairs=chairs, password=password)
        except (InputError, Refused) as error:
            raise CommandError(str(error)) from None
        self.stdout.write(f"{told['name']}: {owner.full_name} signs in as {owner.username}")
