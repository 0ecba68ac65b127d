import { hashKey } from "@tanstack/react-query";
import { type Dispatch, type SetStateAction, useCallback, useEffect, useState } from "react";

const PREFIX = "kept ";
const WHOSE = "whose";

/** Returns what this tab has kept under a name, if it has and can be read. */
export function keptAs<T>(name: string): T | null {
  try {
    const text = sessionStorage.getItem(PREFIX + name);
    return text === null ? null : (JSON.parse(text) as T);
  } catch {
    return null;
  }
}

/** Keeps a value for this tab until it is forgotten: a reload leaves it. */
export function keep(name: string, value: unknown) {
  try {
    sessionStorage.setItem(PREFIX + name, JSON.stringify(value));
  } catch {
    // A browser that keeps nothing loses with a reload what was typed, as before.
  }
}

export function forgetKept(name: string) {
  sessionStorage.removeItem(PREFIX + name);
}

/** Forgets all that was kept: whoever signs in next did not type it. */
export function forgetAllKept() {
  for (const key of Object.keys(sessionStorage))
    if (key.startsWith(PREFIX)) sessionStorage.removeItem(key);
}

/** Forgets what somebody else has typed in this tab: whose session had ended, and who did not sign out. */
export function keepFor(person: string) {
  if (keptAs<string>(WHOSE) !== person) forgetAllKept();
  keep(WHOSE, person);
}

/** Returns a state that outlives a reload once it was changed, how to change it, and how to forget it. Where what it begins
 * with has changed meanwhile, as on another device, that holds. */
export function useKept<T>(name: string, first: T): [T, Dispatch<SetStateAction<T>>, () => void] {
  const [start] = useState(first);
  const [value, setValue] = useState<T>(() => {
    const kept = keptAs<{ from: T; value: T }>(name);
    return kept && hashKey([kept.from]) === hashKey([start]) ? kept.value : start;
  });
  useEffect(() => {
    if (value !== start) keep(name, { from: start, value });
  }, [name, start, value]);
  const forget = useCallback(() => {
    setValue(start);
    forgetKept(name);
  }, [name, start]);
  return [value, setValue, forget];
}
