"""The API below `/api/`; every other path is the interface's."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from practice.api import api


@ensure_csrf_cookie
def interface(request: HttpRequest) -> HttpResponse:
    """Return the built interface's page."""
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The interface is not built: run `make build`.", status=503)
    response = HttpResponse(page.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [path("api/", api.urls), re_path(r"^(?!static/).*$", interface)]
