import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";

export type Lamp = Schemas["LampOut"];
export type Taken = Schemas["TakenIn"];
type Source = Schemas["ReadingsIn"]["source"];

export function useLamp(id: number) {
  return useQuery({
    queryKey: keys.light(id),
    refetchOnMount: "always",
    queryFn: () =>
      unwrap(client.GET("/api/lights/{light_id}", { params: { path: { light_id: id } } })),
  });
}

/** What changes a lamp changes what Today, Bench and Chairside say of it. */
function useTake() {
  const queries = useQueryClient();
  return (lamp: Lamp) => {
    queries.setQueryData(keys.light(lamp.id), lamp);
    for (const queryKey of [keys.lights, keys.today, keys.restorations])
      void queries.invalidateQueries({ queryKey, refetchType: "none" });
    void queries.invalidateQueries({ queryKey: keys.lights, exact: true });
  };
}

export function useKeepReadings(id: number) {
  return useMutation({
    mutationFn: (body: { source: Source; readings: Taken[] }) =>
      unwrap(
        client.POST("/api/lights/{light_id}/readings", {
          params: { path: { light_id: id } },
          body,
        }),
      ),
    onSuccess: useTake(),
  });
}

export function useSample(id: number) {
  return useMutation({
    mutationFn: (body: Schemas["SampleIn"]) =>
      unwrap(
        client.POST("/api/lights/{light_id}/samples", { params: { path: { light_id: id } }, body }),
      ),
  });
}

export function useReadFile() {
  return useMutation({
    mutationFn: (text: string) => unwrap(client.POST("/api/readings-file", { body: { text } })),
  });
}

export function useLampEvent(id: number) {
  return useMutation({
    mutationFn: (body: Schemas["LightEventIn"]) =>
      unwrap(
        client.POST("/api/lights/{light_id}/events", { params: { path: { light_id: id } }, body }),
      ),
    onSuccess: useTake(),
  });
}

export function useAddLamp() {
  return useMutation({
    mutationFn: (body: Schemas["LampIn"]) => unwrap(client.POST("/api/lights", { body })),
    onSuccess: useTake(),
  });
}
