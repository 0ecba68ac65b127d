"""`manage.py fill_many`: the demo practice with patients and restorations by the thousand, to measure at."""

from __future__ import annotations

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from practice.accounts.many import fill_many
from practice.accounts.models import Practice


class Command(BaseCommand):
    help = "Fill the demo practice with invented patients and restorations, on a server without another."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--patients", type=int, default=20_000)
        parser.add_argument("--restorations", type=int, default=100_000)

    def handle(self, *args: Any, patients: int, restorations: int, **options: Any) -> None:
        if Practice.objects.filter(is_demo=False).exists():
            raise CommandError("a practice of one's own is on this server: use another data folder")
        practice = fill_many(patients, restorations)
        self.stdout.write(f"{practice.name}: {patients} patients, {restorations} restorations")
