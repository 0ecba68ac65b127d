import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ApiError, type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { serverTime, setByServer } from "./clock";
import { type RunState, advanced } from "./fold";
import {
  type RunEvent,
  deviceName,
  keepUnsent,
  nextSequence,
  stillMeant,
  unsentOf,
  uuid,
} from "./outbox";

export type Run = Schemas["RunOut"];
export type Kind = RunEvent["kind"];
export type Detail = NonNullable<RunEvent["detail"]>;
const POLL_MS = 1500;
const RETRY_MS = 1500;

export interface RunControls {
  /** The run as this device sees it: the server's, and on top what it has not yet acknowledged. */
  run: Run | undefined;
  error: Error | null;
  unsent: number;
  said: string;
  happen: (kind: Kind, detail?: Detail) => void;
}

/**
 * Follows a run. What happens is kept on this device until the server has acknowledged it, and sent
 * again after a reload or an absence; its id makes sending twice harmless. Meanwhile the run goes on
 * here.
 */
export function useRun(id: number): RunControls {
  const queries = useQueryClient();
  const [unsent, setUnsent] = useState<RunEvent[]>(() => unsentOf(id));
  const [said, setSaid] = useState("");
  const sending = useRef(false);
  const query = useQuery({
    queryKey: keys.run(id),
    refetchInterval: POLL_MS,
    retry: true,
    retryDelay: RETRY_MS,
    queryFn: async () => {
      const asked = Date.now();
      const run = await unwrap(
        client.GET("/api/runs/{run_id}", { params: { path: { run_id: id } } }),
      );
      setByServer(run.state.server_now, asked);
      return run;
    },
  });

  const keep = useCallback(
    (change: (events: RunEvent[]) => RunEvent[]) => {
      // What is stored is the truth: a press between two renders must not be forgotten.
      const events = change(unsentOf(id));
      keepUnsent(id, events);
      setUnsent(events);
    },
    [id],
  );

  const sendAll = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    try {
      for (let event = unsentOf(id)[0]; event; event = unsentOf(id)[0]) {
        const sent = event;
        const asked = Date.now();
        try {
          const state = await unwrap(
            client.POST("/api/runs/{run_id}/events", {
              params: { path: { run_id: id } },
              body: { ...sent, age_ms: ageOf(sent) },
            }),
          );
          setByServer(state.server_now, asked);
          await queries.cancelQueries({ queryKey: keys.run(id) });
          const seen = queries.getQueryData<Run>(keys.run(id));
          queries.setQueryData<Run>(keys.run(id), (run) => (run ? { ...run, state } : run));
          keep((events) => events.filter((e) => e.client_id !== sent.client_id));
          if (seen && seen.state.plan_number !== state.plan_number)
            await queries.invalidateQueries({ queryKey: keys.run(id) });
        } catch (error) {
          if (!(error instanceof ApiError) || error.status === 0) return;
          const run = await queries.fetchQuery<Run>({ queryKey: keys.run(id), staleTime: 0 });
          if (error.code === "run.moved_on") {
            const { step_id, revision } = run.state;
            keep((events) => stillMeant(events, step_id, revision));
          } else {
            // It can't be; what was pressed after it stood on it.
            keep(() => []);
          }
          setSaid(error.message);
        }
      }
    } catch {
      // The server went away again; the next try begins where this one stopped.
    } finally {
      sending.current = false;
    }
  }, [id, keep, queries]);

  const waiting = unsent.length > 0;
  useEffect(() => {
    if (!waiting) return undefined;
    void sendAll();
    const timer = setInterval(() => void sendAll(), RETRY_MS);
    return () => clearInterval(timer);
  }, [waiting, sendAll]);

  const server = query.data;
  const run = useMemo(
    () => server && { ...server, state: stateHere(server, unsent) },
    [server, unsent],
  );
  const state = run?.state;
  const steps = run?.steps;
  const isHeld = run !== undefined && waitsForTeacher(run);
  const happen = useCallback(
    (kind: Kind, detail: Detail = {}) => {
      if (!state || !steps) return;
      if (kind === "check_passed" && isHeld) {
        setSaid("A teacher has to pass this: here with their password, or on their own device.");
        return;
      }
      const event = eventNow(state, kind, detail);
      if (kind !== "deeper" && kind !== "other_matrix" && !advanced(steps, state, event)) return;
      setSaid("");
      keep((events) => [...events, event]);
    },
    [state, steps, keep, isHeld],
  );

  const error = query.error instanceof ApiError && query.error.status !== 0 ? query.error : null;
  return { run, error, unsent: unsent.length, said, happen };
}

/** Whether a run stands at a hold point that whoever looks at it may not pass. */
export function waitsForTeacher({ steps, state, teachers }: Run): boolean {
  const step = steps.find((s) => s.id === state.step_id);
  return teachers.length > 0 && Boolean(step?.hold);
}

/** An event that happens now. */
export function eventNow(state: Run["state"], kind: Kind, detail: Detail = {}): RunEvent {
  return {
    client_id: uuid(),
    kind,
    step_id: state.step_id,
    expected_revision: state.revision,
    device: deviceName(),
    device_sequence: nextSequence(),
    client_wall: new Date(serverTime()).toISOString(),
    client_monotonic_ms: Math.round(performance.now()),
    age_ms: 0,
    detail,
  };
}

/** How long ago an event happened; none, if it is sent at once. */
function ageOf(event: RunEvent): number {
  return Math.max(0, Math.round(serverTime() - Date.parse(event.client_wall)));
}

/** Returns the server's state with this device's unsent events on top. */
function stateHere(run: Run, unsent: RunEvent[]): RunState {
  return unsent.reduce((state, event) => {
    if (event.expected_revision !== state.revision) return state;
    return advanced(run.steps, state, event) ?? state;
  }, run.state);
}
