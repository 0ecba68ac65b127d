"""Choosing the restorative: ranked with reasons, by the keyboard; what forbids it, and what would do instead."""

import re

from playwright.sync_api import Page, expect

from tests.views.conftest import sign_in
from tests.views.test_journey import open_bench, row
from tools.server import Server


def in_europe(server: Server) -> None:
    """Move the demo practice to where the law forbids amalgam."""
    told = "from practice.accounts.models import Practice; Practice.objects.update(place='eu')"
    done = server.manage("shell", "-c", told)
    assert done.returncode == 0, done.stderr


def test_the_choice_is_opened_by_its_key_with_every_reason(page: Page, server: Server) -> None:
    in_europe(server)
    open_bench(page, server)
    page.keyboard.press("3")
    expect(page.get_by_role("button", name="Material")).to_have_attribute("aria-pressed", "true")
    notes = page.get_by_role("complementary", name="Summary")
    expect(notes).to_contain_text("1. composite")
    expect(notes).to_contain_text("+2 Composite needs no retention form")
    expect(notes).to_contain_text("Not recorded, assumed: the load is normal")
    expect(notes).to_contain_text(re.compile("amalgam.*stopped.*2024/1849", re.DOTALL))
    # A stage without steps leaves the tape whole.
    expect(page.get_by_role("button", name=re.compile("Polish")).first).to_be_visible()
    page.get_by_role("button", name="Why: composite").click()
    expect(page.get_by_role("dialog")).to_contain_text("Our own estimate, no source")


def test_an_allergy_stops_the_plan_and_the_bench_says_what_would_do(page: Page, server: Server) -> None:
    told = "Patient.objects.filter(full_name='Casimir Adeyemi-Roth').update(allergies=[{'to': 'resin', 'substance': ''}])"
    done = server.manage("shell", "-c", f"from practice.restorations.models import Patient; {told}")
    assert done.returncode == 0, done.stderr
    in_europe(server)
    sign_in(page, server)
    today = row(page, "Casimir Adeyemi-Roth")
    expect(today).to_contain_text("Composite must not be placed here")
    expect(today.get_by_role("button", name="Start")).to_be_disabled()
    page.goto(f"{server.url}/bench/2")
    refusal = page.get_by_role("main")
    expect(refusal).to_contain_text("No plan for 36, Casimir Adeyemi-Roth")
    expect(refusal).to_contain_text("The patient is allergic to resin")
    expect(refusal).to_contain_text(re.compile(r"1\. not direct: a crown or onlay"))
    expect(refusal).to_contain_text(re.compile("composite.*stopped", re.DOTALL))
