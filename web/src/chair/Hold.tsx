import Box from "@mui/material/Box";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { night } from "../theme/tokens";
import { ChairButton } from "./ChairButton";
import { ChairDialog } from "./ChairDialog";
import { type Run, eventNow } from "./useRun";

/** A hold point of a trainee's: a teacher passes it here with their password, or on their own device. */
export function TeacherPasses({ run, disabled }: { run: Run; disabled: boolean }) {
  const [username, setUsername] = useState<string | null>(null);
  const [open, setOpen] = useState(false);
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const id = useId();
  const chosen = username ?? run.teachers[0]?.username ?? "";
  const pass = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST("/api/runs/{run_id}/holds", {
          params: { path: { run_id: run.id } },
          body: { ...eventNow(run.state, "check_passed"), username: chosen, password },
        }),
      ),
    onSuccess: async () => {
      close();
      await queries.invalidateQueries({ queryKey: keys.run(run.id) });
    },
  });

  function close() {
    setOpen(false);
    setPassword("");
    pass.reset();
  }

  return (
    <>
      <ChairButton main disabled={disabled} onPress={() => setOpen(true)}>
        teacher passes
      </ChairButton>
      <ChairDialog open={open} title="Who passes it?" onClose={close}>
        <Box
          component="form"
          onSubmit={(event: React.FormEvent) => {
            event.preventDefault();
            pass.mutate();
          }}
          sx={{ display: "grid", gap: 2, mb: 3 }}
        >
          <Box
            role="group"
            aria-label="Teacher"
            sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}
          >
            {run.teachers.map((teacher) => (
              <ChairButton
                key={teacher.username}
                colour={teacher.username === chosen ? night.go : night.soft}
                onPress={() => setUsername(teacher.username)}
              >
                {teacher.username === chosen ? "\u25cf" : "\u25cb"} {teacher.full_name}
              </ChairButton>
            ))}
          </Box>
          <Box component="label" htmlFor={id} sx={{ fontSize: 22 }}>
            Their password
          </Box>
          <input
            id={id}
            type="password"
            autoComplete="off"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
            style={{
              minHeight: 56,
              fontSize: 24,
              padding: "0 12px",
              background: night.room,
              color: night.text,
              border: `2px solid ${night.line}`,
            }}
          />
          {pass.error && (
            <Box role="alert" sx={{ color: night.stop, fontSize: 22 }}>
              {pass.error.message}
            </Box>
          )}
          <ChairButton main disabled={!password || pass.isPending} onPress={() => pass.mutate()}>
            passed
          </ChairButton>
        </Box>
      </ChairDialog>
    </>
  );
}
