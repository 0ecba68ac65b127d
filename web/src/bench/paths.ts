/** Reading and writing a case by paths such as `preparation.parts[1].height_mm`. */

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
