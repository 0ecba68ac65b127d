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

const DAY = new Intl.DateTimeFormat("en-GB", { dateStyle: "long", timeZone: "UTC" });

/** A calendar day, which no zone moves. */
export function dayOf(iso: string): string {
  return DAY.format(new Date(iso));
}
