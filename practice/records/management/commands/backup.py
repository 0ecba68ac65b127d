"""`manage.py backup FILE`: all data of the server in one file, while it runs."""

from __future__ import annotations

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from practice.accounts.owned import Refused
from practice.records.backup import take_backup


class Command(BaseCommand):
    help = "Write the database and the server's key to a file; the server may run meanwhile."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            told = take_backup(settings.DATABASES["default"]["NAME"], settings.SECRET_KEY, options["file"])
        except Refused as refused:
            raise CommandError(str(refused)) from None
        self.stdout.write(f"{options['file']}: {told['seals']} seals, taken {told['taken_at']}")
