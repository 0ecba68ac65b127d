import { type RefCallback, useCallback, useState } from "react";

/** Returns a ref and the width of the element it is given to, in pixels. */
export function useWidth<T extends HTMLElement>(): [RefCallback<T>, number, number] {
  const [size, setSize] = useState<[number, number]>([640, 400]);
  const ref = useCallback((element: T | null) => {
    if (!element) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize([entry.contentRect.width, entry.contentRect.height]);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, size[0], size[1]];
}
