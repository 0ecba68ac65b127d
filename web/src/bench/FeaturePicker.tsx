import { Picks } from "./Picks";
import { cutFor, optionsFor, withToggled } from "./features";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  name: string;
  draft: Draft;
  actions: DraftActions;
}

/** What holds the filling besides the bond, each to be cut or not; nothing where nothing could be. */
export function FeaturePicker({ name, draft, actions }: Props) {
  const options = optionsFor(draft.data).map((option) => ({
    name: option.name,
    title: option.title,
    isTaken: cutFor(draft.data, option) !== undefined,
    onToggle: () => {
      const { parts, estimated } = withToggled(draft.data, option);
      actions.set("preparation.parts", parts, estimated);
    },
  }));
  return options.length > 0 && <Picks name={name} options={options} />;
}
