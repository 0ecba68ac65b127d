"""What every row of a practice shares: an owner, and rows that can't be changed once written."""

from __future__ import annotations

from typing import Any, Self

from django.db import models


class Refused(Exception):  # noqa: N818 - an answer, not a fault
    """A change that the record keeping does not allow."""

    def __init__(self, code: str, text: str) -> None:
        self.code = code
        super().__init__(text)


class OwnedQuerySet(models.QuerySet[Any]):
    def owned_by(self, practice: object) -> Self:
        """Return the rows of one practice; every look-up of the API begins here."""
        return self.filter(practice=practice)


class Owned(models.Model):
    practice = models.ForeignKey("accounts.Practice", on_delete=models.PROTECT, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        abstract = True


class FixedQuerySet(OwnedQuerySet):
    """Refuses what would change rows behind their backs."""

    def update(self, **_: Any) -> int:
        raise Refused("fixed", f"{self.model.__name__} rows are never changed")

    def delete(self) -> tuple[int, dict[str, int]]:
        raise Refused("fixed", f"{self.model.__name__} rows are never deleted")

    def bulk_update(self, *_: Any, **__: Any) -> int:
        raise Refused("fixed", f"{self.model.__name__} rows are never changed")


class Fixed(Owned):
    """A row that is written once and then neither changed nor deleted."""

    objects = FixedQuerySet.as_manager()

    class Meta:
        abstract = True
        base_manager_name = "objects"

    def save(self, *args: Any, **kwargs: Any) -> None:
        if not self._state.adding:
            raise Refused("fixed", f"{type(self).__name__} rows are never changed")
        super().save(*args, **{**kwargs, "force_insert": True})

    def delete(self, *_: Any, **__: Any) -> tuple[int, dict[str, int]]:
        raise Refused("fixed", f"{type(self).__name__} rows are never deleted")
