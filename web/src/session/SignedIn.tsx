import type { ReactNode } from "react";
import { Trouble } from "../shell/Trouble";
import { Waiting } from "../shell/Waiting";
import { SetUpView } from "./SetUpView";
import { SignInView } from "./SignInView";
import { useSession } from "./queries";

/** Shows its children to whoever is signed in, the sign-in to everyone else. */
export function SignedIn({ children }: { children: ReactNode }) {
  const session = useSession();
  if (session.isPending) return <Waiting />;
  if (session.isError)
    return <Trouble error={session.error} again={() => void session.refetch()} />;
  if (session.data.wants_set_up) return <SetUpView />;
  if (!session.data.user) return <SignInView demo={session.data.demo_accounts ?? []} />;
  return children;
}
