import type { Case, Schemas } from "../api/client";
import { valueAt, withValue } from "./paths";
import { type Ask, lightOf } from "./told";
import type { Answer } from "./useDraft";

export type Comparison = Schemas["Comparison"];

/** One way to plan a case: the value that it sets, and where. */
export interface Variant {
  name: string;
  path: string;
  value: Answer;
  isOwn: boolean;
  data: Case;
  /** Whether more of the case is told otherwise than that value. */
  isWhole?: boolean;
}

interface Named {
  name: string;
  case_part: Record<string, unknown>;
  /** The whole case, where it asks for more than that part. */
  data?: Case;
}

/** Returns the ways to plan a case that differ in one thing, the case's own way among them. */
export function variantsOf(
  { path, by }: Comparison,
  data: Case,
  ask: Ask | undefined,
  lights: readonly Named[],
  materials: readonly Named[],
  restoratives: readonly Named[] = [],
): Variant[] {
  const own = valueAt(data, path) as Answer;
  const made = (name: string, value: Answer, isOwn: boolean) => ({
    name,
    path,
    value,
    isOwn,
    data: isOwn ? data : withValue(data, path, value),
  });
  switch (by) {
    case "answer": {
      const inStock = (data.stock ?? []).filter((one) => ask?.stock?.includes(one.kind));
      const named = inStock.map(({ name }) => ({ name, value: name }));
      const options = ask?.stock?.length ? named : (ask?.options ?? []);
      const taken = own ?? options[0]?.value;
      return options.map((o) => made(o.name, o.value, o.value === taken));
    }
    case "light":
      if (!lightOf(data)) return [];
      return lights.map((l) => made(l.name, l.case_part, l.name === lightOf(data)?.name));
    case "restorative":
      // The first is its own.
      return restoratives.map((r, i) => {
        const way = made(r.name, i === 0 ? own : r.case_part, i === 0);
        return r.data ? { ...way, data: r.data, isWhole: true } : way;
      });
    case "material": {
      const names = ((own ?? []) as Named[]).map((m) => m.name).join();
      return materials.map((m) => made(m.name, [m.case_part], m.name === names));
    }
  }
}
