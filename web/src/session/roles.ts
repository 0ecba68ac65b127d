/** Whether a role answers for the work: signs, sets rules, passes the hold points. */
export function answers(role: string | undefined): boolean {
  return role === "dentist" || role === "teacher";
}

/** Whether a role treats: a trainee does, under a teacher's eyes. */
export function treats(role: string | undefined): boolean {
  return answers(role) || role === "trainee";
}
