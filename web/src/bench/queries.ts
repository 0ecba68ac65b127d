import {
  keepPreviousData,
  queryOptions,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { ApiError, type Case, type Schemas, bodyOf, client, unwrap } from "../api/client";
import { type OfDraft, keys } from "../api/keys";

const AGAIN_MS = 4000;

export type Preview = Schemas["PreviewOut"];

export function useRestoration(id: number) {
  return useQuery({
    queryKey: keys.restoration(id),
    queryFn: () =>
      unwrap(
        client.GET("/api/restorations/{restoration_id}", {
          params: { path: { restoration_id: id } },
        }),
      ),
  });
}

export function useLights() {
  return useQuery({ queryKey: keys.lights, queryFn: () => unwrap(client.GET("/api/lights")) });
}

/** What in stock a restoration may be built of. */
export function useMaterials() {
  return useQuery({
    queryKey: keys.materials,
    queryFn: () => unwrap(client.GET("/api/materials")),
  });
}

/** The query of a case's plan; cases that were asked for before are answered at once. */
export function previewOf(data: Case) {
  return queryOptions({
    queryKey: keys.ofDraft("preview", data),
    gcTime: 60_000,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        client.POST("/api/preview", {
          body: bodyOf(data),
        }),
      ),
  });
}

/** What the server reckons of a draft beside its plan, once the draft has settled: it takes several plans. */
function useOfDraft<T>(
  name: OfDraft,
  draft: Case,
  isWanted: boolean,
  meanwhile: typeof keepPreviousData | undefined,
  ask: (body: ReturnType<typeof bodyOf>) => Promise<T>,
) {
  return useQuery({
    queryKey: keys.ofDraft(name, draft),
    enabled: isWanted,
    staleTime: Infinity,
    retry: false,
    // What takes many plans gives way to newer work, and is asked for again.
    refetchInterval: ({ state }) =>
      state.error instanceof ApiError && state.error.code === "superseded" ? AGAIN_MS : false,
    placeholderData: meanwhile,
    queryFn: () => ask(bodyOf(draft)),
  });
}

/** What to measure first; the last answer stands until the next is there. */
export function useMeasureFirst(draft: Case, isSettled: boolean) {
  return useOfDraft("measure-first", draft, isSettled, keepPreviousData, (body) =>
    unwrap(client.POST("/api/measure-first", { body })),
  );
}

/** Where in the sections how many times the needed dose arrives; never that of another draft. */
export function useLightLines(draft: Case, isWanted: boolean) {
  return useOfDraft("light-lines", draft, isWanted, undefined, (body) =>
    unwrap(client.POST("/api/light-lines", { body })),
  );
}

/** What a draft looks like at each place of its face; never that of another draft. */
export function useColorFace(draft: Case, isWanted: boolean) {
  return useOfDraft("color-face", draft, isWanted, undefined, (body) =>
    unwrap(client.POST("/api/color-face", { body })),
  );
}

/** What each of the composites that come near asks for in increments and light; never that of another draft. */
export function useMatchCosts(draft: Case, isWanted: boolean) {
  return useOfDraft("match-costs", draft, isWanted, undefined, (body) =>
    unwrap(client.POST("/api/match-costs", { body })),
  );
}

/** What holding the tip aslant or away would cost. */
export function useHoldLessons(draft: Case, isWanted: boolean) {
  return useOfDraft("hold-lessons", draft, isWanted, undefined, (body) =>
    unwrap(client.POST("/api/hold-lessons", { body })),
  );
}

/** What could be cut besides to hold a draft's restoration. */
export function useDesigns(draft: Case, isWanted: boolean) {
  return useOfDraft("designs", draft, isWanted, undefined, (body) =>
    unwrap(client.POST("/api/designs", { body })),
  );
}

/** Which solids of a draft can be had as files. */
export function useShapes(draft: Case, isWanted: boolean) {
  return useOfDraft("shapes", draft, isWanted, keepPreviousData, (body) =>
    unwrap(client.POST("/api/shapes", { body })),
  );
}

export type Sway = NonNullable<ReturnType<typeof useMeasureFirst>["data"]>[number];

/** A saved plan as it was made then. */
export function useSavedPlan(id: number, number: number) {
  return useQuery({
    queryKey: keys.plan(id, number),
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        client.GET("/api/restorations/{restoration_id}/plans/{number}", {
          params: { path: { restoration_id: id, number } },
        }),
      ),
  });
}

export function useSavePlan(id: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (draft: Case) =>
      unwrap(
        client.POST("/api/restorations/{restoration_id}/plans", {
          params: { path: { restoration_id: id } },
          body: bodyOf(draft),
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.restoration(id) }),
  });
}

/** What a case would ask of another restorative, with what the practice has for it. */
export function useRestorative(id: number) {
  return useMutation({
    mutationFn: ({ data, material }: { data: Case; material: string }) =>
      unwrap(
        client.POST("/api/restorations/{restoration_id}/restorative", {
          params: { path: { restoration_id: id } },
          body: { ...bodyOf(data), material },
        }),
      ),
  });
}

/** What a case asks of each of several restoratives; of those that have been answered. */
export function useRestoratives(id: number, data: Case, options: readonly Schemas["Option"][]) {
  const answers = useQueries({
    queries: options.map(({ id: material }) => ({
      queryKey: [...keys.ofDraft("restoratives", data), material],
      staleTime: Infinity,
      queryFn: () =>
        unwrap(
          client.POST("/api/restorations/{restoration_id}/restorative", {
            params: { path: { restoration_id: id } },
            body: { ...bodyOf(data), material },
          }),
        ),
    })),
  });
  return options.flatMap(({ name }, i) => {
    const data = answers[i]?.data;
    return data ? [{ name, case_part: data.restoration as Record<string, unknown>, data }] : [];
  });
}

export function useStartRun(id: number) {
  return useMutation({
    mutationFn: () =>
      unwrap(
        client.POST("/api/restorations/{restoration_id}/runs", {
          params: { path: { restoration_id: id } },
        }),
      ),
  });
}
