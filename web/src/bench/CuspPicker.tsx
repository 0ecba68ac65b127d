import { Picks } from "./Picks";
import { type Cusp, coverOf, withCover } from "./cover";
import { withoutStrays } from "./features";
import type { Draft, DraftActions } from "./useDraft";

interface Props {
  name: string;
  cusps: string[];
  draft: Draft;
  actions: DraftActions;
}

/** The cusps of a tooth, each to be covered or not. */
export function CuspPicker({ name, cusps, draft, actions }: Props) {
  const taken: string[] = coverOf(draft.data)?.cusps ?? [];

  function toggle(cusp: string) {
    const wanted = cusps.filter((one) => (one === cusp) !== taken.includes(one));
    const { parts, estimated } = withCover(draft.data, wanted as Cusp[]);
    actions.set("preparation.parts", withoutStrays(parts), estimated);
  }

  const options = cusps.map((cusp) => ({
    name: cusp,
    isTaken: taken.includes(cusp),
    onToggle: () => toggle(cusp),
  }));
  return <Picks name={name} options={options} />;
}
