import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type Schemas, client, unwrap } from "../api/client";
import { keys } from "../api/keys";
import type { Place } from "./teeth";

export type Patient = Schemas["PatientOut"];
export type PatientTold = Schemas["PatientTold"];
export type Placed = Schemas["PlacedOut"];

export function usePatients(q: string, page: number, archived: boolean) {
  return useQuery({
    queryKey: keys.patients(q, page, archived),
    queryFn: () =>
      unwrap(client.GET("/api/patients", { params: { query: { q, page, archived } } })),
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
  });
}

export function usePatient(id: number) {
  return useQuery({
    queryKey: keys.patient(id),
    queryFn: () =>
      unwrap(client.GET("/api/patients/{patient_id}", { params: { path: { patient_id: id } } })),
    refetchOnMount: "always",
  });
}

/** What the handbook has of every tooth. */
export function useTeeth() {
  return useQuery({
    queryKey: keys.teeth,
    queryFn: async () => {
      const teeth = await unwrap(client.GET("/api/teeth"));
      return teeth.map((tooth) => ({ ...tooth, outline: tooth.outline as Place[] }));
    },
    staleTime: Infinity,
  });
}

export function useColleagues() {
  return useQuery({
    queryKey: keys.colleagues,
    queryFn: () => unwrap(client.GET("/api/colleagues")),
  });
}

export function useAddPatient() {
  return useMutation({
    mutationFn: (body: Schemas["NewPatient"]) => unwrap(client.POST("/api/patients", { body })),
  });
}

/** Reads a file of patients without keeping any. */
export function useReadPatients() {
  return useMutation({
    mutationFn: (text: string) =>
      unwrap(client.POST("/api/patients-file", { body: { text, keep: false } })),
  });
}

export function useKeepPatients() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (text: string) =>
      unwrap(client.POST("/api/patients-file", { body: { text, keep: true } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.allPatients }),
  });
}

/** Lets a change of a patient be shown at once, and days anew. */
function usePatientMutation<T>(id: number, call: (told: T) => Promise<Patient>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: call,
    onSuccess: (patient) => {
      queries.setQueryData(keys.patient(id), patient);
      void queries.invalidateQueries({ queryKey: keys.today });
    },
  });
}

export function useChangePatient(id: number) {
  const params = { path: { patient_id: id } };
  return usePatientMutation(id, (body: PatientTold) =>
    unwrap(client.PATCH("/api/patients/{patient_id}", { params, body })),
  );
}

export function useCheckHistory(id: number) {
  const params = { path: { patient_id: id } };
  return usePatientMutation(id, () =>
    unwrap(client.POST("/api/patients/{patient_id}/history", { params })),
  );
}

export function useArchive(id: number) {
  const params = { path: { patient_id: id } };
  return usePatientMutation(id, (reason: string) =>
    unwrap(client.POST("/api/patients/{patient_id}/archive", { params, body: { reason } })),
  );
}

/** Begins a restoration of a patient, or of nobody's. */
export function useBegin(patientId: number | null) {
  return useMutation({
    mutationFn: (body: Schemas["BeginIn"]) =>
      patientId === null
        ? unwrap(client.POST("/api/trials", { body }))
        : unwrap(
            client.POST("/api/patients/{patient_id}/restorations", {
              params: { path: { patient_id: patientId } },
              body,
            }),
          ),
  });
}

export type Trial = Schemas["TrialOut"];

export function useTrials() {
  return useQuery({
    queryKey: keys.trials,
    queryFn: () => unwrap(client.GET("/api/trials")),
    refetchOnMount: "always",
  });
}

export function useAttach(trialId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (patient_id: number) =>
      unwrap(
        client.POST("/api/trials/{restoration_id}/attach", {
          params: { path: { restoration_id: trialId } },
          body: { patient_id },
        }),
      ),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.trials }),
  });
}

/** Lets what is booked be seen wherever it shows. */
function useVisitMutation<T>(call: (told: T) => Promise<Schemas["BookedOut"]>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: call,
    onSuccess: (visit) => {
      void queries.invalidateQueries({ queryKey: keys.today });
      void queries.invalidateQueries({ queryKey: keys.patient(visit.patient_id) });
    },
  });
}

export function useBook() {
  return useVisitMutation((body: Schemas["BookVisitIn"]) =>
    unwrap(client.POST("/api/visits", { body })),
  );
}

export function useChangeVisit(id: number) {
  const params = { path: { visit_id: id } };
  return useVisitMutation((body: Schemas["ChangeVisitIn"]) =>
    unwrap(client.PATCH("/api/visits/{visit_id}", { params, body })),
  );
}
