import Box from "@mui/material/Box";
import { useMutation } from "@tanstack/react-query";
import { Folded } from "../shell/Folded";
import { type Case, bodyOf, client, unwrap } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { useShapes } from "./queries";

interface Props {
  data: Case;
  isSettled: boolean;
}

const FORMATS = ["stl", "ply"] as const;

/** The solids of the plan, each to be had as a file for other programs. */
export function Shapes(props: Props) {
  return (
    <Box component="section" aria-label="Shapes as files">
      <Folded name="Shapes as files">
        <Files {...props} />
      </Folded>
    </Box>
  );
}

function Files({ data, isSettled }: Props) {
  const names = useShapes(data, isSettled).data ?? [];
  const file = useMutation({
    mutationFn: async ({ shape, format }: { shape: string; format: string }) => {
      const path = { shape, format };
      const asked = { params: { path }, body: bodyOf(data), parseAs: "blob" } as const;
      const made = await unwrap(client.POST("/api/shapes/{shape}.{format}", asked));
      keep(made as unknown as Blob, `${data.tooth.code} ${shape}.${format}`);
    },
  });
  return (
    <>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, pb: 0.5 }}>
        {names.map((shape) => (
          <Box component="li" key={shape} sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
            <Box sx={{ flex: 1 }}>{shape.replace(/\./g, " ")}</Box>
            {FORMATS.map((format) => (
              <TextButton
                key={format}
                label={`${format.toUpperCase()} of ${shape}`}
                onPress={() => file.mutate({ shape, format })}
              >
                {format.toUpperCase()}
              </TextButton>
            ))}
          </Box>
        ))}
      </Box>
      {file.error && (
        <Box role="alert" sx={{ color: "error.main", pb: 1 }}>
          {file.error.message}
        </Box>
      )}
    </>
  );
}

/** Hands a file to the browser under a name. */
function keep(file: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
