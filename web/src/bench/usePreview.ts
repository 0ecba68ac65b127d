import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { startTransition, useEffect, useState } from "react";
import { ApiError, type Case, type Problem, type Schemas } from "../api/client";
import type { Newest } from "../shell/newest";
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

/** Who asks for the plan of the page, among those that take turns. */
const PAGE = {};

/**
 * Plans the draft as it stands, in turn with whatever else plans it. A draft that can't be planned keeps the
 * last good picture. What is answered is shown when there is time between two frames of a drag.
 */
export function usePreview(draft: Case, previews: Newest): Previewed {
  const queries = useQueryClient();
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [last, setLast] = useState<{ good: Preview | null; data: Case }>({
    good: null,
    data: draft,
  });
  useEffect(() => {
    void previews.ask(PAGE, async () => {
      const got = await ask(queries, draft);
      startTransition(() => {
        setAnswer(got);
        if (got.preview?.plan) setLast({ good: got.preview, data: got.asked });
      });
    });
  }, [draft, queries, previews]);
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
