import type { Schemas } from "../api/client";
import type { Lamp } from "./queries";

const MONTH = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric", timeZone: "UTC" });

function monthOf(iso: string): string {
  return MONTH.format(new Date(iso));
}

/** Says where a lamp's output is going, and when it will not do any more. */
export function forecastOf({ trend, beam, today }: Lamp): string {
  if (!beam) return "";
  if (!trend) return "At least three measurement days are needed for a trend.";
  const share = (100 * trend.share_a_month).toFixed(1).replace("-", "\u2212");
  const change = `${share} % a month since ${monthOf(trend.since)}`;
  const level = `${beam.wanted.contact_mw_cm2.toFixed(0)} mW/cm²`;
  if (!trend.falls_below_on)
    return trend.earliest_on
      ? `${change}; under ${level} not before ${monthOf(trend.earliest_on)}.`
      : `${change}; stays over ${level} for five years.`;
  if (trend.falls_below_on <= today) return `${change}; under ${level} already.`;
  const early = trend.earliest_on ? monthOf(trend.earliest_on) : "";
  const late = trend.latest_on ? ` to ${monthOf(trend.latest_on)}` : " at the earliest";
  const range = late === ` to ${early}` ? "" : ` (${early}${late})`;
  return `${change}; under ${level} in ${monthOf(trend.falls_below_on)}${range}.`;
}

export type Mode = NonNullable<Schemas["Light"]["output_mode"]>;

/** What a way for the output to go during a press is called. */
export function modeName(mode: Mode): string {
  if (mode.kind === "ramp") return `ramp ${mode.rise_s} s`;
  return mode.kind === "pulsed" ? `pulsed ${100 * mode.on_share} %` : "full";
}
