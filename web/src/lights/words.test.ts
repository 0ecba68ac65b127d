import { describe, expect, it } from "vitest";
import { isReadSince } from "../bench/LampPicker";
import type { Schemas } from "../api/client";
import type { Lamp } from "./queries";
import { dayOf } from "../session/time";
import { forecastOf } from "./words";

function lampOf(trend: Partial<NonNullable<Lamp["trend"]>> | null): Lamp {
  const whole = {
    since: "2026-04-26",
    days: 8,
    share_a_month: -0.0112,
    falls_below_on: null,
    earliest_on: null,
    latest_on: null,
    ...trend,
  };
  const beam = { wanted: { contact_mw_cm2: 613.2 } };
  return { trend: trend && whole, beam, today: "2026-11-26" } as unknown as Lamp;
}

describe("forecastOf", () => {
  it.each([
    [null, "At least three measurement days are needed for a trend."],
    [{}, "−1.1 % a month since April 2026; stays over 613 mW/cm² for five years."],
    [
      { earliest_on: "2030-06-02" },
      "−1.1 % a month since April 2026; under 613 mW/cm² not before June 2030.",
    ],
    [
      { falls_below_on: "2029-08-02", earliest_on: "2028-06-02", latest_on: "2031-01-02" },
      "−1.1 % a month since April 2026; under 613 mW/cm² in August 2029 (June 2028 to January 2031).",
    ],
    [
      { falls_below_on: "2029-08-02", earliest_on: "2028-06-02" },
      "−1.1 % a month since April 2026; under 613 mW/cm² in August 2029 (June 2028 at the earliest).",
    ],
    [
      { falls_below_on: "2026-11-26", share_a_month: 0.002 },
      "0.2 % a month since April 2026; under 613 mW/cm² already.",
    ],
  ])("says where a curing light goes: %j", (trend, text) => {
    expect(forecastOf(lampOf(trend))).toBe(text);
  });

  it("says nothing of a curing light that nothing is known of", () => {
    expect(forecastOf({ ...lampOf(null), beam: null })).toBe("");
  });
});

describe("dayOf", () => {
  it("writes a calendar day that no zone moves", () => {
    expect(dayOf("2026-11-01")).toBe("1 November 2026");
  });
});

describe("isReadSince", () => {
  const reading = (day: string, irradiance_mw_cm2: number) => ({
    distance_mm: 0,
    irradiance_mw_cm2,
    taken_at: day,
  });
  const counts = (...readings: object[]) => ({ readings }) as unknown as Schemas["Light"];

  it.each([
    ["the same", [reading("2026-11-22", 1150)], false],
    ["another day", [reading("2026-11-26", 1150)], true],
    ["the same day, other values", [reading("2026-11-22", 380)], true],
    ["an older day", [reading("2026-11-02", 380)], false],
    ["nothing", [], false],
  ])("tells by the newest day's readings: %s", (_, readings, is) => {
    const data = counts(reading("2026-10-22", 1200), reading("2026-11-22", 1150));
    expect(isReadSince(data, { readings })).toBe(is);
  });
});
