import type { Case, Schemas } from "../api/client";
import { OptionLine } from "./OptionLine";
import { useRestorative } from "./queries";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  restorationId: number;
  options: readonly Schemas["Option"][];
  draft: Draft;
  actions: DraftActions;
}

/** The restoratives as they are weighed; one that can be planned is taken by a tap. */
export function Options({ restorationId, options, draft, actions }: Props) {
  const restorative = useRestorative(restorationId);
  const own = draft.data.restoration.material;

  function take(material: string) {
    restorative.mutate(
      { data: draft.data, material },
      { onSuccess: ({ restoration }: Case) => actions.set("restoration", restoration) },
    );
  }

  return options.map((option, i) => (
    <OptionLine
      key={option.id}
      option={option}
      place={i + 1}
      onTake={
        option.can_be_planned && !option.is_stopped && option.id !== own
          ? () => take(option.id)
          : undefined
      }
    />
  ));
}
