import { Picks } from "./Picks";
import { valueAt } from "./paths";
import { useMaterials } from "./queries";
import type { Ask } from "./told";
import type { Draft, DraftActions } from "./useDraft";

interface Named {
  name: string;
}

interface Props {
  ask: Ask;
  draft: Draft;
  actions: DraftActions;
}

/** The composites in stock, each to be built of or not; what is built of stays, whether it is in stock or not. One at least is. */
export function CompositePicker({ ask, draft, actions }: Props) {
  const chosen = (valueAt(draft.data, ask.path) as Named[] | undefined) ?? [];
  const names = chosen.map(({ name }) => name);
  const inStock = (useMaterials().data ?? []).filter((one) => one.in_stock);
  const others = inStock.filter(({ name }) => !names.includes(name));
  const ways = [...inStock.filter(({ name }) => names.includes(name)), ...others];
  const gone = chosen.filter(({ name }) => !inStock.some((one) => one.name === name));

  function toggle(name: string, part: object | undefined) {
    const rest = chosen.filter((one) => one.name !== name);
    if (part && rest.length === chosen.length) actions.answer(ask, [...chosen, part]);
    else if (rest.length > 0) actions.answer(ask, rest);
  }

  return (
    <Picks
      name={ask.name}
      options={[
        ...gone.map(({ name }) => ({
          name: `${name}, not in stock`,
          isTaken: true,
          onToggle: () => toggle(name, undefined),
        })),
        ...ways.map(({ name, role, case_part: part }) => ({
          name: name.toLowerCase().includes(role) ? name : `${name} · ${role}`,
          isTaken: names.includes(name),
          onToggle: () => toggle(name, part),
        })),
      ]}
    />
  );
}
