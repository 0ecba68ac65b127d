"""The rulebook: found, set for the house, seen on the Bench, taken back, out and in as a file."""

import csv
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.views.test_journey import figure, open_bench
from tools.server import Server

RULE = "Share of the scraped length that counts as depth of cure"


def open_rule(page: Page, search: str, title: str) -> None:
    page.get_by_role("link", name="Rulebook").click()
    page.get_by_label("Search rules, sources, places").fill(search)
    page.get_by_role("navigation", name="Found").get_by_role("link", name=title).click()
    expect(page.get_by_role("article", name=title)).to_be_visible()


def value(page: Page) -> str:
    return page.locator("[data-value]").inner_text()


def set_value(page: Page, text: str, why: str) -> None:
    form = page.get_by_role("region", name="Set for the practice")
    form.get_by_label("value").fill(text)
    form.get_by_label("why").fill(why)
    form.get_by_role("button", name="Set", exact=True).click()


def test_a_house_rule_is_made_seen_on_the_bench_and_undone(page: Page, server: Server) -> None:
    open_bench(page, server)
    bench = page.url
    before = figure(page, "light_seconds")
    open_rule(page, "scraped length", RULE)
    article = page.get_by_role("article", name=RULE)
    expect(article).to_contain_text("ISO 4049")
    expect(article).to_contain_text("Casimir Adeyemi-Roth")

    set_value(page, "0.99", "harder still")
    refused = article.get_by_role("alert")
    expect(refused).to_contain_text("Value: 0.99? Allowed: 0.3 to 0.8")
    expect(article.get_by_label("why")).to_have_value("harder still")
    set_value(page, "0.4", "")
    expect(refused).to_contain_text("Allowed: a reason in a few words")
    set_value(page, "0.4", "hardness read at our own bench")
    expect(article).to_contain_text(re.compile("Practice setting since .* set by Ines Okafor-Lind"))
    assert value(page).startswith("0.4")

    page.goto(bench)
    expect(
        page.get_by_text(re.compile("Practice settings changed since plan 1: Share of the scraped"))
    ).to_be_visible()
    expect(page.get_by_text("practice settings changed since plan 1", exact=True)).to_be_visible()
    assert figure(page, "light_seconds") > before
    page.get_by_role("button", name="Why, practice setting: Total curing time").click()
    why = page.get_by_role("dialog")
    expect(why).to_contain_text("practice setting, default 0.5")
    why.get_by_role("link", name=RULE).click()
    page.get_by_role("button", name="Back to the default, 0.5 ×").click()
    expect(article).to_contain_text("The rulebook’s own value.")
    expect(article.get_by_role("region", name="History")).to_contain_text("hardness read at our own bench")

    page.goto(bench)
    expect(page.get_by_text("plan 1 saved")).to_be_visible()
    expect(page.get_by_text("Practice settings changed")).to_have_count(0)
    assert figure(page, "light_seconds") == before


def test_the_rules_go_out_and_come_in_as_a_file(page: Page, server: Server, tmp_path: Path) -> None:
    open_bench(page, server)
    page.get_by_role("link", name="Rulebook").click()
    with page.expect_download() as coming:
        page.get_by_role("link", name="Save all rules as CSV").click()
    saved = tmp_path / "rules.csv"
    coming.value.save_as(saved)
    rows = list(csv.DictReader(saved.open()))
    of = {row["rule"]: row for row in rows}
    of["bond.scrub_s"].update(value="25", why="a slower brush")
    of["bond.rinse_s"].update(value="900", why="surely")
    with saved.open("w", newline="") as file:
        table = csv.DictWriter(file, list(rows[0]))
        table.writeheader()
        table.writerows(rows)

    page.get_by_label("Take rules from a file").set_input_files(saved)
    expect(page.get_by_text(re.compile(r"line \d+, value: 900\? Allowed: 5 to 60 s"))).to_be_visible()
    changes = page.get_by_role("list", name="What the file would change")
    expect(changes.get_by_role("listitem")).to_have_count(1)
    expect(changes).to_contain_text("Scrub of the adhesive: 20 → 25 s: a slower brush")
    page.get_by_role("button", name="Set this rule").click()
    expect(changes).to_have_count(0)
    page.get_by_role("radio", name="practice").click()
    found = page.get_by_role("navigation", name="Found")
    expect(found.get_by_role("link", name="Scrub of the adhesive")).to_contain_text("practice, default 20")
