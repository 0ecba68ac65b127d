import { Picks } from "./Picks";
import { withToggled } from "./features";
import type { Ask } from "./told";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  ask: Ask;
  draft: Draft;
  actions: DraftActions;
}

/** What holds the restoration besides the bond, each to be cut or not; nothing where nothing could be. */
export function FeaturePicker({ ask, draft, actions }: Props) {
  const options = (ask.options ?? []).map((choice) => ({
    name: choice.name,
    title: choice.title,
    isTaken: choice.cut_at != null,
    onToggle: () => {
      const { parts, estimated } = withToggled(draft.data, choice);
      if (choice.surfaces) actions.set("restoration.surfaces", choice.surfaces);
      actions.set("preparation.parts", parts, estimated);
    },
  }));
  return options.length > 0 && <Picks name={ask.name} options={options} />;
}
