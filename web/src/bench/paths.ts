/** Reading and writing a case by paths such as `preparation.parts[1].height_mm`. */

import type { Case } from "../api/client";

type Join<Before extends string, Key extends string> = Before extends "" ? Key : `${Before}.${Key}`;

/** The paths that something of this type has, by its schema. */
type PathsOf<T, Before extends string = ""> = T extends readonly (infer One)[]
  ? `${Before}[${number}]` | PathsOf<One, `${Before}[${number}]`>
  : T extends object
    ? {
        [Key in keyof T & string]:
          Join<Before, Key> | PathsOf<NonNullable<T[Key]>, Join<Before, Key>>;
      }[keyof T & string]
    : never;

/** A member of whichever of several types has it. */
type Member<T, Key extends string> = T extends unknown
  ? Key extends keyof T
    ? T[Key]
    : never
  : never;

type Within<T, Path extends string> = Path extends ""
  ? T
  : Path extends `.${infer Rest}`
    ? ValueOf<T, Rest>
    : Path extends `[${number}]${infer Rest}`
      ? NonNullable<T> extends readonly (infer One)[]
        ? Within<One, Rest>
        : never
      : never;

/** What stands at a path of something of this type. */
type ValueOf<T, Path extends string> = Path extends `${infer Key}[${infer Rest}`
  ? Key extends `${infer First}.${infer More}`
    ? ValueOf<Member<NonNullable<T>, First>, `${More}[${Rest}`>
    : Within<Member<NonNullable<T>, Key>, `[${Rest}`>
  : Path extends `${infer Key}.${infer Rest}`
    ? ValueOf<Member<NonNullable<T>, Key>, Rest>
    : Member<NonNullable<T>, Path>;

export type CasePath = PathsOf<Case>;
export type CaseValue<Path extends CasePath> = ValueOf<Case, Path>;

function keysOf(path: string): (string | number)[] {
  return path
    .replace(/\[(\d+)\]/g, ".$1")
    .split(".")
    .map((k) => (/^\d+$/.test(k) ? Number(k) : k));
}

export function valueAt(root: unknown, path: string): unknown {
  return keysOf(path).reduce<unknown>(
    (here, key) => (here as Record<string | number, unknown> | null | undefined)?.[key],
    root,
  );
}

/** Returns a copy with a value set; everything beside the path is shared. */
export function withValue<T>(root: T, path: string, value: unknown): T {
  const [first, ...rest] = keysOf(path);
  return setIn(root, first as string | number, rest, value) as T;
}

function setIn(
  here: unknown,
  key: string | number,
  rest: (string | number)[],
  value: unknown,
): unknown {
  const copy: Record<string | number, unknown> | unknown[] = Array.isArray(here)
    ? [...here]
    : { ...(here as object | null) };
  const [next, ...more] = rest;
  const inner = (copy as Record<string | number, unknown>)[key];
  (copy as Record<string | number, unknown>)[key] =
    next === undefined ? value : setIn(inner, next, more, value);
  return copy;
}
