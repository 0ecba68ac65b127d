"""The API: thin endpoints that parse, authorise, call a service and return."""

from ninja import NinjaAPI

from practice.api import (
    begun,
    days,
    devices,
    errors,
    lights,
    patient_files,
    patients,
    people,
    planning,
    records,
    rules,
    runs,
    session,
    stock,
    teeth,
    visits,
)
from practice.api.access import RoleAuth

api = NinjaAPI(title="Apt Mallet", version="1", auth=RoleAuth(), docs_url=None, openapi_url=None)
errors.install(api)
for router in (
    session.router,
    people.router,
    patients.router,
    begun.router,
    patient_files.router,
    teeth.router,
    days.router,
    planning.router,
    lights.router,
    rules.router,
    stock.router,
    runs.router,
    records.router,
    visits.router,
    devices.router,
):
    api.add_router("", router)

__all__ = ["api"]
