"""A record as pages to print and keep: everything that the screen shows, with the section as drawn."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from fpdf import FPDF
from fpdf.enums import XPos, YPos

from mallet.terms.reasons import signed

FONTS = Path(__file__).resolve().parent / "fonts"
INK, SOFT, RULE = (31, 42, 48), (90, 92, 88), (205, 197, 178)
# What screen and page are both painted with, and how each view is turned.
PICTURE = json.loads((Path(__file__).resolve().parent / "picture.json").read_text())
WIDE_MM, TALL_MM = 84.0, 66.0
LEFT_MM = 18.0
LINE_MM = 5.0
ADVICE = "Written with Apt Mallet, which is no certified medical device: it advises; the dentist decides and signs."


class _Pages(FPDF):
    def __init__(self, title: str, made: dt.datetime) -> None:
        super().__init__(format="A4")
        self.title_line = title
        self.set_title(title)
        self.set_creation_date(made)
        for weight, style in (("400", ""), ("700", "B")):
            for subset in ("latin", "latin-ext"):
                self.add_font(subset, style, FONTS / f"{subset}-{weight}.ttf")
        self.set_fallback_fonts(["latin-ext"])
        self.set_margins(LEFT_MM, 16, LEFT_MM)
        self.set_auto_page_break(True, 20)
        self.add_page()

    def footer(self) -> None:
        self.set_y(-15)
        self.write_as(8, SOFT)
        self.cell(0, 4, ADVICE, new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.cell(0, 4, f"{self.title_line} · page {self.page_no()} of {{nb}}")

    def write_as(self, size: float, colour: tuple[int, int, int] = INK, style: str = "") -> None:
        self.set_font("latin", style, size)
        self.set_text_color(*colour)

    def line_of(
        self, text: str, size: float = 10, style: str = "", colour: tuple[int, int, int] = INK
    ) -> None:
        self.write_as(size, colour, style)
        self.multi_cell(0, 0.5 * size, text, new_x=XPos.LMARGIN, new_y=YPos.NEXT, align="L")

    def heading(self, text: str) -> None:
        self.ln(3)
        self.line_of(text, 12, "B")

    def rows(self, widths: Sequence[float], rows: Iterable[Sequence[str]], numbers: set[int]) -> None:
        """Write a table whose first row is its head; columns of numbers stand to the right."""
        self.write_as(9)
        self.set_fill_color(255)
        self.set_draw_color(*RULE)
        with self.table(
            col_widths=tuple(widths),
            text_align=tuple("RIGHT" if i in numbers else "LEFT" for i in range(len(widths))),
            borders_layout="SINGLE_TOP_LINE",
            line_height=LINE_MM,
            padding=0.4,
        ) as table:
            for row in rows:
                table.row(list(row))


def record_pdf(record: dict[str, Any], zone: ZoneInfo) -> bytes:
    """Return the pages of a record as the interface gets it; the same bytes for the same record."""

    def moment(text: str | dt.datetime | None, form: str = "%d %b %Y, %H:%M") -> str:
        if text is None:
            return ""
        found = dt.datetime.fromisoformat(text) if isinstance(text, str) else text
        return found.astimezone(zone).strftime(form)

    name = ", ".join(
        filter(None, (f"{record['tooth']} {record['surfaces']}", record["material"], record["visit"]))
    )
    finished = dt.datetime.fromisoformat(record["finished_at"])
    pages = _Pages(f"Record {record['id']}: {name}, {record['patient']}", finished)
    pages.line_of(name, 20, "B")
    pages.line_of(f"{record['tooth_name']} · {record['reason']}", 12)
    pages.line_of(record["patient"], 12, "B")
    pages.line_of(
        f"{record['dentist']}, {record['practice']} · {moment(record['started_at'])} to "
        f"{moment(record['finished_at'], '%H:%M')} · plan {record['plan_number']}, engine {record['engine']}",
        colour=SOFT,
    )
    for other in record["others"]:
        told = f"Record {other['id']}: {other['visit'] or 'placed'}, {moment(other['finished_at'])}"
        pages.line_of(told, colour=SOFT)
    _planned(pages, record)
    pages.heading("What differed from the plan")
    for deviation in record["deviations"] or [{"text": "Nothing: as planned."}]:
        pages.line_of(deviation["text"])
    if record["holds"]:
        pages.heading("Who passed it")
    for hold in record["holds"]:
        pages.line_of(f"{hold['title']}: {hold['by']}, {hold['role']}, {moment(hold['at'])}")
    pages.heading("What was decided")
    for decision in record["decisions"]:
        about = f"{decision['about']}: " if "about" in decision else ""
        pages.line_of(" \u00b7 ".join(filter(None, (f"{about}{decision['chosen']}", decision.get("said")))))
    if record["placed"]:
        pages.heading("What was placed: planned, and the seconds recorded")
        _placed(pages, record["placed"], record["scrap"])
    for mix in record["mixes"]:
        pages.line_of(f"{mix['title']}: ready {moment(mix['at'], '%H:%M:%S')}")
    _measured(pages, record["measured"])
    if record["assumptions"]:
        pages.heading("Assumed, not recorded")
    for one in record["assumptions"]:
        pages.line_of(_assumed(one), 9)
    if record["lots"]:
        pages.heading("Packages scanned")
    for lot in record["lots"]:
        pages.line_of(", ".join([moment(lot["at"], "%H:%M"), *_scanned(lot)]))
    pages.heading("Times")
    times = [
        (s["title"] + (f" ({s['visits']} times)" if s["visits"] > 1 else ""), moment(s["began"], "%H:%M:%S"),
         f"{s['planned_s']:g} s", f"{s['actual_s']:.0f} s")
        for s in record["steps"]
    ]  # fmt: skip
    pages.rows((104, 26, 24, 24), [("Step", "began", "planned", "recorded"), *times], {2, 3})
    pages.heading("In the dentist's words")
    pages.line_of(record["free_text"] or "Nothing added.")
    pages.heading("Signed")
    for seal in record["seals"]:
        words = f"Amended: {seal.text} " if seal.kind == "amendment" else ""
        pages.line_of(f"{words}{seal.signed_by}, {moment(seal.signed_at)}")
        pages.line_of(f"seal {seal.sequence}: {seal.hash}", 8, colour=SOFT)
    if not record["seals"]:
        pages.line_of("Not signed yet.", style="B")
    return bytes(pages.output())


def _planned(pages: _Pages, record: dict[str, Any]) -> None:
    """Draw the section, and write the big numbers beside it."""
    top = pages.get_y()
    _draw(pages, record["drawing"]["sheets"][0], record["drawing"])
    below = pages.get_y()
    pages.set_left_margin(LEFT_MM + WIDE_MM + 6)
    pages.set_y(top)
    pages.heading("Planned")
    for figure in record["figures"]:
        pages.line_of(f"{figure['title']}: {figure['value']:g} {figure['unit']}".rstrip(), style="B")
        pages.line_of(figure["detail"], 9, colour=SOFT)
    pages.set_left_margin(LEFT_MM)
    pages.set_y(max(below, pages.get_y()))


def _scanned(lot: dict[str, Any]) -> list[str]:
    """Return what is known of a package that was scanned."""
    named = lot["name"] or f"not in stock: {lot['text']}"
    told = (
        named,
        f"lot {lot['lot']}" if lot["lot"] else "",
        f"expires {lot['expires_on']}" if lot["expires_on"] else "",
    )
    return [one for one in told if one]


def _placed(pages: _Pages, rows: Sequence[dict[str, Any]], left: dict[str, Any] | None) -> None:
    """Write the increments: the numbers that each has, as planned, and the seconds recorded."""
    numbers = [
        f"{m['title']}{', ' if m['unit'] else ''}{m['unit']}" for m in (rows[0]["measures"] if rows else ())
    ]
    head = ("No.", "Increment", "Product, lot", "g", *numbers, "planned\ns", "recorded\ns")
    told = [
        (
            str(row["order"]),
            row["name"],
            ", ".join(filter(None, (row["product"], row["lot"]))),
            f"{row['mass_g']:.3f}",
            *(_figure(measure) for measure in row["measures"]),
            f"{row['planned_s']:g}",
            _recorded(row),
        )
        for row in rows
    ]
    first = (9, 38, 38, 13)
    each = (178 - sum(first) - 36) / max(len(numbers), 1)
    pages.rows((*first, *(each for _ in numbers), 17, 19), [head, *told], set(range(3, len(head))))
    if left:
        told = f"{left['capsules']} capsules opened, {left['discarded']} discarded"
        pages.line_of(f"{told}: about {left['scrap_mg']:g} mg of scrap.")


def _measured(pages: _Pages, rows: Sequence[dict[str, Any]]) -> None:
    """Write the figures that were measured: before, as planned, and as they were typed."""
    if not rows:
        return
    pages.heading("Measured at the chair")
    told = [
        (
            f"{row['title']}, {row['detail']}",
            *(_length(row, key) for key in ("before", "planned", "measured")),
            row["text"],
        )
        for row in rows
    ]
    pages.rows((74, 19, 19, 19, 47), [("What", "before", "planned", "after", ""), *told], {1, 2, 3})


def _length(row: dict[str, Any], key: str) -> str:
    """Return a figure with its unit, a height with its sign."""
    if row[key] is None:
        return "not recorded"
    told = signed(row[key]) if row.get("is_height", True) else f"{row[key]:.1f}"
    return f"{told} {row['unit']}"


def _recorded(placed: dict[str, Any]) -> str:
    seconds = placed["recorded_s"]
    return "none" if seconds is None else f"{seconds:.0f}"


def _assumed(one: dict[str, Any]) -> str:
    """Return what was taken, with its value where it has a unit."""
    return f"{one['value']:g} {one['unit']}: {one['why']}" if one["unit"] else one["why"]


def _paint(shape: dict[str, Any]) -> tuple[str, str, bool]:
    """Return what a shape is filled and edged with, and whether its edge is dashed."""
    fills, material = PICTURE["fills"], shape["material"]
    edge = PICTURE["edges"].get(material, fills["band"])
    if shape["role"] == "increment":
        return PICTURE["increments"][shape["order"] % 2], edge, False
    return fills.get(material, fills["band"]), edge, material in PICTURE["dashed"]


def _draw(pages: _Pages, section: dict[str, Any], orientation: dict[str, Any]) -> None:
    """Draw the section at the right of the head, crown as it stands in the mouth."""
    own = [s for s in section["shapes"] if s["role"] != "neighbour"]
    # Of something small only what lies round it.
    window = section.get("window")
    points = window or [p for shape in own for ring in shape["rings"] for p in ring]
    x0, x1 = (f(p[0] for p in points) for f in (min, max))
    y0, y1 = (f(p[1] for p in points) for f in (min, max))
    scale = min(WIDE_MM / (x1 - x0), TALL_MM / (y1 - y0))
    hangs = 1 if orientation["upper"] else -1
    turn = PICTURE["signs"][section["view"]]
    across = turn["across"] * hangs * (-1 if orientation["mirrored"] else 1) + turn["ahead"]
    up = turn["up"] * hangs
    top = pages.get_y() + 3
    middle = LEFT_MM + WIDE_MM / 2

    def place(p: Sequence[float]) -> tuple[float, float]:
        return (
            middle + across * scale * (p[0] - (x0 + x1) / 2),
            top + TALL_MM / 2 + up * scale * (p[1] - (y0 + y1) / 2),
        )

    pages.set_draw_color(*INK)
    pages.set_line_width(0.25)
    clip = (LEFT_MM, top, WIDE_MM, TALL_MM) if window else (0, 0, pages.w, pages.h)
    with pages.rect_clip(*clip):
        _shapes(pages, own, place)
    bar = 1 if window else 5
    pages.line(LEFT_MM, top + TALL_MM + 3, LEFT_MM + bar * scale, top + TALL_MM + 3)
    pages.text(LEFT_MM + bar * scale + 2, top + TALL_MM + 4, f"{bar} mm")
    ends = PICTURE["ends"][section["axes"][0]][::across]
    for end, at in zip(ends, (LEFT_MM, LEFT_MM + WIDE_MM - 12), strict=True):
        pages.text(at, top, end)


def _shapes(
    pages: _Pages, own: Sequence[dict[str, Any]], place: Callable[[Sequence[float]], tuple[float, float]]
) -> None:
    """Paint shapes from back to front, increments with their numbers."""
    for shape in own:
        fill, edge, is_dashed = _paint(shape)
        pages.set_fill_color(fill)
        pages.set_draw_color(edge)
        pages.set_dash_pattern(*((0.8, 0.6) if is_dashed else ()))
        for ring in shape["rings"]:
            pages.polygon([place(p) for p in ring], style="DF")
    pages.set_dash_pattern()
    pages.set_draw_color(*INK)
    pages.write_as(8)
    for shape in (s for s in own if s["role"] == "increment" and s["rings"]):
        ring = max(shape["rings"], key=len)
        x, y = place([sum(p[i] for p in ring) / len(ring) for i in (0, 1)])
        pages.text(x - 1, y + 1, str(shape["order"]))


def _figure(measure: Mapping[str, Any]) -> str:
    """Return a number of an increment; what is counted has no decimals."""
    value = measure["value"]
    return f"{value:.0f}" if not measure["unit"] and value == round(value) else f"{value:.2f}"
