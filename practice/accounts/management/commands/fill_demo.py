"""`manage.py fill_demo`: make the demo practice unless it is there."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from practice.accounts.demo import NAME, PASSWORD, PEOPLE, fill_demo


class Command(BaseCommand):
    help = "Fill the demo practice; a filled one is left as it is."

    def handle(self, *args: Any, **options: Any) -> None:
        fill_demo()
        self.stdout.write(f"{NAME}, demo sign-ins:")
        for username, full_name, role in PEOPLE:
            self.stdout.write(f"  {username} / {PASSWORD}  ({full_name}, {role})")
