import { Picks } from "./Picks";
import { valueAt } from "./paths";
import type { Ask } from "./told";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  ask: Ask;
  draft: Draft;
  actions: DraftActions;
}

/** Other teeth that the same is done to, each to be taken or not. */
export function TeethPicker({ ask, draft, actions }: Props) {
  const taken = (valueAt(draft.data, ask.path) as string[] | undefined) ?? [];
  const options = (ask.options ?? []).map(({ value, name }) => ({
    name,
    isTaken: taken.includes(value),
    onToggle: () =>
      actions.answer(
        ask,
        taken.includes(value) ? taken.filter((one) => one !== value) : [...taken, value],
      ),
  }));
  return <Picks name={ask.name} options={options} />;
}
