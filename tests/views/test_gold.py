"""Direct gold from the choice to the signed record: the path drawn, the beat heard and seen, contaminated once."""

import re

from playwright.sync_api import Page, expect

from practice.accounts.demo import PASSWORD
from tests.views.conftest import sign_in
from tests.views.test_amalgam import opened
from tests.views.test_journey import figure, go_on, step
from tools.server import Server

# Notes every tone that starts, with what it goes through until it is heard.
LISTEN = """
window.heard = [];
const into = new Map();
const connect = AudioNode.prototype.connect;
AudioNode.prototype.connect = function (to, ...rest) {
  into.set(this, to);
  return connect.call(this, to, ...rest);
};
const start = OscillatorNode.prototype.start;
OscillatorNode.prototype.start = function (...at) {
  const way = [];
  for (let node = this; node; node = into.get(node)) way.push(node.constructor.name);
  window.heard.push({ pitch: this.frequency.value, way });
  return start.call(this, ...at);
};
"""


def test_a_facial_pit_gets_gold_foil_from_the_choice_to_the_signed_record(page: Page, server: Server) -> None:
    page.add_init_script(LISTEN)
    sign_in(page, server)
    row = page.get_by_role("listitem").filter(has_text="Aslaug Merrin-Tovey").first
    row.get_by_role("link", name="Bench").click()
    expect(page.locator("[data-figure=pellets]")).to_contain_text("of Tern foil 1/128")
    # Two weigh the same: another is planned, and gold again.
    notes = opened(page, "Material")
    expect(notes).to_contain_text("Gold foil and composite weigh the same")
    notes.get_by_role("button", name="plan with composite").click()
    expect(page.locator("[data-figure=light_seconds]")).to_be_visible()
    notes.get_by_role("button", name="plan with gold foil").click()
    expect(page.locator("[data-figure=pellets]")).to_be_visible()
    count = figure(page, "pellets")
    page.get_by_role("textbox", name="pit width").fill("1.3")
    expect(page.locator("[data-figure=pellets]")).not_to_contain_text(re.compile(rf"Gold{count:.0f}"))
    assert figure(page, "pellets") < count
    # Each zone's steps are drawn, as many as its path has, and the line of force in the section.
    notes = opened(page, "Stepping")
    rows = notes.get_by_role("table", name="In order of placement").get_by_role("row")
    expect(rows).to_have_count(6)
    rows.nth(1).click()
    path = page.get_by_test_id("stepping-path")
    expect(path).to_be_visible()
    assert path.locator("circle").count() == int(path.get_attribute("data-steps") or 0) > 10
    expect(page.get_by_test_id("line-of-force")).to_contain_text("0.5 mm nib, 16.7 N")
    page.get_by_role("button", name="Save plan").click()
    expect(page.get_by_text("plan 2 saved")).to_be_visible()

    page.get_by_role("button", name="Start chairside").click()
    expect(page.get_by_text("46 F, gold foil")).to_be_visible()
    page.get_by_role("button", name="sound off").click()
    titles: list[str] = []
    while page.get_by_role("button", name="finish").count() == 0:
        titles.append(step(page))
        if titles[-1].startswith("Start at the cervical floor"):
            heat = page.get_by_role("group", name="Heat of a pellet")
            heat.get_by_role("button", name="heat a pellet, 3 s").click()
            beat = page.get_by_test_id("beat")
            expect(beat).to_contain_text("pellet of about")
            expect(heat).to_contain_text(re.compile(r"clean for \d+ s more"))
            expect(page.get_by_test_id("pass")).to_have_text(re.compile(r"pass 1, step [2-9] of \d+"))
            heard = page.evaluate("window.heard")
            assert {"pitch": 440, "way": ["OscillatorNode", "GainNode", "AudioDestinationNode"]} in heard
        if titles[-1] == "Build up the walls all round":
            page.get_by_role("button", name="contaminated").click()
            expect(page.get_by_role("status").first).to_contain_text("fresh gold on clean gold")
        if titles[-1] == "Trim from gold to tooth":
            turned = page.get_by_role("img", name="Where the work is").locator("path[stroke-width='3']")
            expect(turned).to_have_count(4)
        go_on(page)
    wanted = ["Enter the pit", "Look for caries before extending", "Cut outline and walls", "Cut the groove all round",
              "Cut three starting points", "Varnish, two coats", "Bevel the margin all round", "Verify the preparation",
              "Start at the occlusal point", "Build up the walls all round", "Close the middle", "Burnish all over",
              "Trim from gold to tooth", "Judge it point by point"]  # fmt: skip
    assert [title for title in dict.fromkeys(titles) if title in wanted] == wanted
    page.keyboard.press("Space")
    record = page.get_by_role("article")
    expect(record.get_by_role("heading", name="46 F, gold foil")).to_be_visible()
    expect(record).to_contain_text("TF128")
    expect(record).to_contain_text(re.compile(r"Pellets: \d+ of Tern foil 1/128"))
    expect(record).to_contain_text("flame, pellet by pellet")
    expect(record).to_contain_text(
        re.compile("ontaminated at: Build up the walls all round|Build up the walls all round.*ontaminated")
    )
    page.get_by_label("Your password, to sign").fill(PASSWORD)
    page.get_by_role("button", name="Sign the record").click()
    expect(page.get_by_text("Signed by Ines Okafor-Lind")).to_be_visible()
