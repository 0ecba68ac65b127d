import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { startTransition, useEffect, useRef, useState } from "react";
import { ApiError, type Case, type Problem, type Schemas } from "../api/client";
import { type Preview, previewOf } from "./queries";

/** The plan of a draft: the newest answer, the last good one, and what is wrong with the draft. */
export interface Previewed {
  good: Preview | null;
  /** The draft that the good plan was made of. */
  data: Case;
  isCurrent: boolean;
  /** A newer draft is on its way to the server, so what is wrong may be out of date. */
  isWaiting: boolean;
  problems: Problem[];
  refusal: Schemas["NoPlan"] | null;
  error: ApiError | null;
}

interface Answer {
  asked: Case;
  preview: Preview | null;
  error: ApiError | null;
}

/**
 * Plans the draft as it stands. One request is in flight; once it is answered the newest draft is
 * asked for, whatever came between. A draft that can't be planned keeps the last good picture. What
 * is answered is shown when there is time between two frames of a drag. `rest` resolves once nothing else
 * that plans is in flight.
 */
export function usePreview(draft: Case, rest: () => Promise<void>): Previewed {
  const queries = useQueryClient();
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [last, setLast] = useState<{ good: Preview | null; data: Case }>({
    good: null,
    data: draft,
  });
  const newest = useRef(draft);
  const isAsking = useRef(false);
  useEffect(() => {
    async function keepUp() {
      isAsking.current = true;
      try {
        let asked: Case | null = null;
        while (asked !== newest.current) {
          asked = newest.current;
          await rest();
          const got = await ask(queries, asked);
          startTransition(() => {
            setAnswer(got);
            if (got.preview?.plan) setLast({ good: got.preview, data: got.asked });
          });
        }
      } finally {
        // At once with the last look at the newest draft: one that comes later must ask by itself.
        isAsking.current = false;
      }
    }
    newest.current = draft;
    if (!isAsking.current) void keepUp();
  }, [draft, queries, rest]);
  const isAnswered = answer?.asked === draft;
  return {
    ...last,
    isCurrent: isAnswered && last.data === draft && last.good !== null,
    isWaiting: !isAnswered,
    problems: answer?.error?.problems ?? [],
    refusal: answer?.preview?.refusal ?? null,
    error: answer?.error && answer.error.code !== "bad_input" ? answer.error : null,
  };
}

async function ask(queries: QueryClient, asked: Case): Promise<Answer> {
  try {
    return { asked, preview: await queries.fetchQuery(previewOf(asked)), error: null };
  } catch (error) {
    if (!(error instanceof ApiError)) throw error;
    return { asked, preview: null, error };
  }
}
