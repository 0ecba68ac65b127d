import type { ChangeEvent } from "react";
import { ApiError, type Problem } from "../api/client";
import { Verdict } from "./Verdict";

interface PickProps {
  label: string;
  /** Reads the text of the file; what it refuses is told by `onProblems`. */
  onText: (text: string) => Promise<void>;
  onProblems: (problems: Problem[]) => void;
}

/** Picks a CSV file. */
export function PickCsv({ label, onText, onProblems }: PickProps) {
  async function take(event: ChangeEvent<HTMLInputElement>) {
    const picked = event.target.files?.[0];
    event.target.value = "";
    if (!picked) return;
    onProblems([]);
    try {
      await onText(await picked.text());
    } catch (error) {
      if (error instanceof ApiError) onProblems(error.problems);
      else throw error;
    }
  }
  return (
    <label style={{ fontSize: 14 }}>
      {label} <input type="file" accept=".csv,text/csv" onChange={(event) => void take(event)} />
    </label>
  );
}

/** What is wrong with a file, row by row. */
export function Problems({ problems }: { problems: Problem[] }) {
  return (
    <ul style={{ listStyle: "none", margin: 0, padding: 0 }}>
      {problems.map((p) => (
        <Verdict
          key={p.path + p.got}
          verdict="fail"
          text={`${p.path}: ${p.got}? Allowed: ${p.allowed}`}
        />
      ))}
    </ul>
  );
}
