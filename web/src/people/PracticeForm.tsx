import Box from "@mui/material/Box";
import { PLACES, chairsIn } from "../session/practice";
import { Field, otherwise } from "../shell/Field";
import { FormDialog } from "../shell/FormDialog";
import { Toggles } from "../shell/Toggles";
import { useKept } from "../shell/kept";
import { type Practice, useChangePractice } from "./queries";

/** Changes the practice: its name, whose rules are shown, its chairs. */
export function PracticeForm({ practice, onDone }: { practice: Practice; onDone: () => void }) {
  const change = useChangePractice();
  const [told, setTold, forget] = useKept("practice", {
    name: practice.name,
    place: practice.place,
    chairs: practice.chairs.join(", "),
  });
  const set = (name: keyof typeof told) => (value: string) =>
    setTold((before) => ({ ...before, [name]: value }));

  const send = () =>
    change.mutate(
      { ...told, chairs: chairsIn(told.chairs) },
      {
        onSuccess: () => {
          forget();
          onDone();
        },
      },
    );

  return (
    <FormDialog
      title="Change the practice"
      submitName="Keep"
      isPending={change.isPending}
      said={otherwise(change.error, ["name", "chairs"])}
      onSubmit={send}
      onDone={onDone}
      onForget={forget}
    >
      <Field
        label="Name of the practice"
        autoFocus
        path="name"
        value={told.name}
        onChange={set("name")}
        refused={change.error}
      />
      <Box>
        <Box sx={{ fontSize: 14, color: "text.secondary", mb: 0.5 }}>
          Rules of which place to show with the choice of material
        </Box>
        <Toggles label="Place" value={told.place} options={PLACES} onChange={set("place")} />
      </Box>
      <Field
        label="Chairs, with commas between"
        path="chairs"
        value={told.chairs}
        onChange={set("chairs")}
        refused={change.error}
        helperText={`Its clock stays at ${practice.zone}: visits are booked by it.`}
      />
    </FormDialog>
  );
}
