"""`manage.py verify_records`: recompute every seal; exit 1 where one is broken."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from practice.accounts.models import Practice
from practice.records.models import Seal
from practice.records.services import broken_seals


class Command(BaseCommand):
    help = "Verify the chain of signed records."

    def handle(self, *args: Any, **options: Any) -> None:
        broken = [f"{p.name}: {line}" for p in Practice.objects.all() for line in broken_seals(p)]
        if broken:
            raise CommandError("\n".join(broken))
        self.stdout.write(f"{Seal.objects.count()} seals whole")
