import { ApiError } from "../api/client";

/** What a refused call says, field by field where it names fields. */
export function saidBy(error: Error): string {
  const problems = error instanceof ApiError ? error.problems : [];
  return problems.length > 0
    ? problems.map((p) => `${p.path}: ${p.got}? Allowed: ${p.allowed}`).join("; ")
    : error.message;
}
