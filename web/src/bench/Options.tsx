import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
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

type Own = Omit<Props, "options">;

/** What takes another restorative, and whether one can be taken. */
function useTake({ restorationId, draft, actions }: Own) {
  const restorative = useRestorative(restorationId);
  const own = draft.data.restoration.material;
  const take = (material: string) =>
    restorative.mutate(
      { data: draft.data, material },
      // What is cut may be another shape for another restorative.
      { onSuccess: (data: Case) => actions.replace(data) },
    );
  const canTake = (option: Schemas["Option"]) =>
    option.can_be_planned && !option.is_stopped && option.id !== own;
  return { take, canTake };
}

/** The restoratives as they are weighed; one that can be planned is taken by a tap. */
export function Options({ options, ...own }: Props) {
  const { take, canTake } = useTake(own);
  return options.map((option, i) => (
    <OptionLine
      key={option.id}
      option={option}
      place={i + 1}
      onTake={canTake(option) ? () => take(option.id) : undefined}
    />
  ));
}

const NEAREST = 3;

/** What else would do where there is no plan, the first of them by a tap. */
export function OtherWays({ options, ...own }: Props) {
  const { take, canTake } = useTake(own);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
      {options
        .filter(canTake)
        .slice(0, NEAREST)
        .map(({ id, name }, i) => (
          <Button
            key={id}
            variant={i === 0 ? "contained" : "outlined"}
            onClick={() => take(id)}
            sx={{ minHeight: 44 }}
          >
            Plan with {name}
          </Button>
        ))}
    </Box>
  );
}
