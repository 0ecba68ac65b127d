import { type ComponentType, useEffect, useState } from "react";
import { Trouble } from "./Trouble";
import { Waiting } from "./Waiting";

/** Returns a view that is fetched once it is first shown, and shown as soon as it is there: what is suspended instead,
 * React holds back for a third of a second. */
export function fetched(load: () => Promise<{ default: ComponentType }>): ComponentType {
  let known: ComponentType | null = null;

  return function Fetched() {
    const [View, setView] = useState(() => known);
    const [error, setError] = useState<Error | null>(null);
    const [tries, setTries] = useState(0);
    useEffect(() => {
      if (View) return;
      load().then(
        (made) => {
          known = made.default;
          setView(() => made.default);
        },
        (reason: unknown) => setError(reason instanceof Error ? reason : new Error(String(reason))),
      );
    }, [View, tries]);
    if (View) return <View />;
    if (!error) return <Waiting />;
    const again = () => {
      setError(null);
      setTries(tries + 1);
    };
    return <Trouble error={error} again={again} />;
  };
}
