import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, type Schemas, client, unwrap } from "../api/client";
import { setByServer } from "./clock";
import {
  type RunEvent,
  deviceName,
  forgetUnsent,
  keepUnsent,
  nextSequence,
  unsentOf,
  uuid,
} from "./outbox";

export type Run = Schemas["RunOut"];
export type Kind = RunEvent["kind"];
const POLL_MS = 2000;
const RETRY_MS = 1500;

export interface RunControls {
  run: Run | undefined;
  error: Error | null;
  unsent: RunEvent | null;
  said: string;
  happen: (kind: Kind) => void;
}

/**
 * Follows a run. What happens is kept on this device until the server has acknowledged it, and sent
 * again after a reload or an absence; its id makes sending twice harmless.
 */
export function useRun(id: number): RunControls {
  const queries = useQueryClient();
  const [unsent, setUnsent] = useState<RunEvent | null>(() => unsentOf(id));
  const [said, setSaid] = useState("");
  const sending = useRef(false);
  const query = useQuery({
    queryKey: ["run", id],
    refetchInterval: POLL_MS,
    retry: true,
    retryDelay: RETRY_MS,
    queryFn: async () => {
      const run = await unwrap(
        client.GET("/api/runs/{run_id}", { params: { path: { run_id: id } } }),
      );
      setByServer(run.state.server_now);
      return run;
    },
  });

  const send = useCallback(
    async (event: RunEvent) => {
      if (sending.current) return;
      sending.current = true;
      try {
        const state = await unwrap(
          client.POST("/api/runs/{run_id}/events", {
            params: { path: { run_id: id } },
            body: event,
          }),
        );
        setByServer(state.server_now);
        forgetUnsent(id);
        setUnsent(null);
        setSaid("");
        await queries.cancelQueries({ queryKey: ["run", id] });
        queries.setQueryData<Run>(["run", id], (run) => (run ? { ...run, state } : run));
      } catch (error) {
        if (error instanceof ApiError && error.status !== 0) {
          // Refused, not lost: another device was faster, or it no longer fits.
          forgetUnsent(id);
          setUnsent(null);
          setSaid(error.message);
          await queries.invalidateQueries({ queryKey: ["run", id] });
        }
      } finally {
        sending.current = false;
      }
    },
    [id, queries],
  );

  useEffect(() => {
    if (!unsent) return undefined;
    void send(unsent);
    const timer = setInterval(() => void send(unsent), RETRY_MS);
    return () => clearInterval(timer);
  }, [unsent, send]);

  const state = query.data?.state;
  const happen = useCallback(
    (kind: Kind) => {
      if (!state || state.finished || unsentOf(id)) return;
      const event: RunEvent = {
        client_id: uuid(),
        kind,
        step_id: state.step_id,
        expected_revision: state.revision,
        device: deviceName(),
        device_sequence: nextSequence(),
        client_wall: new Date().toISOString(),
        client_monotonic_ms: Math.round(performance.now()),
      };
      keepUnsent(id, event);
      setUnsent(event);
    },
    [id, state],
  );

  const error = query.error instanceof ApiError && query.error.status !== 0 ? query.error : null;
  return { run: query.data, error, unsent, said, happen };
}
