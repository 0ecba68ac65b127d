"""`manage.py restore FILE --by OWNER`: a backup into an empty folder, verified, and written down under the owner's password."""

from __future__ import annotations

import os
from argparse import ArgumentParser
from getpass import getpass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from practice.accounts.models import Practice, User
from practice.accounts.owned import Refused
from practice.records.backup import unpack_backup
from practice.records.services import broken_seals, seal_restore


class Command(BaseCommand):
    help = "Bring a backup into an empty folder, verify its records, and write the restore down."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument(
            "--by", required=True, help="user name of an owner, who signs that it was restored"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        password = os.environ.get("MALLET_PASSWORD") or getpass(f"Password of {options['by']}: ")
        try:
            told = unpack_backup(options["file"], settings.VAR_DIR)
            connection.close()
            call_command("migrate", verbosity=0)
            broken = [f"{p.name}: {line}" for p in Practice.objects.all() for line in broken_seals(p)]
            if broken:
                raise CommandError("\n".join(broken))
            owner = User.objects.filter(username=options["by"], is_owner=True, is_active=True).first()
            if owner is None:
                raise CommandError(
                    f"{options['by']} is no owner in this backup: the data is restored, not signed"
                )
            seal_restore(owner, password, told["taken_at"])
        except Refused as refused:
            raise CommandError(str(refused)) from None
        self.stdout.write(
            f"restored as of {told['taken_at']}: {told['seals']} seals whole, signed by {owner.full_name}"
        )
