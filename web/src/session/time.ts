import { useSession } from "./queries";

/** Writes moments in the practice's own zone, wherever the device stands. */
export interface Clock {
  time: (iso: string) => string;
  day: (iso: string) => string;
  shortDay: (iso: string) => string;
  moment: (iso: string) => string;
}

export function clockOf(timeZone: string): Clock {
  const write = (options: Intl.DateTimeFormatOptions) => {
    const format = new Intl.DateTimeFormat("en-GB", { ...options, timeZone });
    return (iso: string) => format.format(new Date(iso));
  };
  return {
    time: write({ hour: "2-digit", minute: "2-digit" }),
    day: write({ weekday: "long", day: "numeric", month: "long" }),
    shortDay: write({ weekday: "short", day: "numeric", month: "short" }),
    moment: write({ dateStyle: "long", timeStyle: "short" }),
  };
}

export function useClock(): Clock {
  const { data: session } = useSession();
  return clockOf(session?.user?.zone ?? "UTC");
}

/** Returns day and time of a moment in a zone, as date and time fields take them. */
export function wallOf(iso: string, timeZone: string): { day: string; time: string } {
  const moment = new Date(iso);
  const time = new Intl.DateTimeFormat("en-GB", { timeZone, hour: "2-digit", minute: "2-digit" });
  return {
    day: new Intl.DateTimeFormat("en-CA", { timeZone }).format(moment),
    time: time.format(moment),
  };
}

/** Returns a calendar day in words, and the days beside it. */
export function onDay(day: string): { named: string; before: string; after: string } {
  const moved = (by: number) =>
    new Date(Date.parse(day) + by * 86_400_000).toISOString().slice(0, 10);
  const named = new Intl.DateTimeFormat("en-GB", {
    weekday: "long",
    day: "numeric",
    month: "long",
    timeZone: "UTC",
  });
  return { named: named.format(new Date(day)), before: moved(-1), after: moved(1) };
}

const QUARTER_MS = 900_000;

/** Returns the next full quarter of an hour in a zone, as date and time fields take it. */
export function nextQuarter(timeZone: string): { day: string; time: string } {
  const at = new Date(Math.ceil(Date.now() / QUARTER_MS) * QUARTER_MS);
  return wallOf(at.toISOString(), timeZone);
}

const DAY = new Intl.DateTimeFormat("en-GB", { dateStyle: "long", timeZone: "UTC" });

/** A calendar day, which no zone moves. */
export function dayOf(iso: string): string {
  return DAY.format(new Date(iso));
}
