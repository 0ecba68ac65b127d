import { useEffect, useRef } from "react";

/** A4 on its side within margins of 8 mm, in pixels of 1/96 inch. */
const PAGE = { width: 1060, height: 730 };

/** Returns a ref to what is printed as it stands on the screen, all of it on one page. */
export function useOnePage<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  useEffect(() => {
    function fit() {
      const element = ref.current;
      if (!element) return;
      const { width, height } = element.getBoundingClientRect();
      // What scrolls on the screen is shown whole on paper.
      const hidden = [...element.children].map((part) => part.scrollHeight - part.clientHeight);
      const tall = height + Math.max(0, ...hidden);
      element.style.width = `${width}px`;
      element.style.height = `${tall}px`;
      element.style.zoom = String(Math.min(PAGE.width / width, PAGE.height / tall));
    }
    function restore() {
      ref.current?.style.removeProperty("width");
      ref.current?.style.removeProperty("height");
      ref.current?.style.removeProperty("zoom");
    }
    window.addEventListener("beforeprint", fit);
    window.addEventListener("afterprint", restore);
    return () => {
      window.removeEventListener("beforeprint", fit);
      window.removeEventListener("afterprint", restore);
    };
  }, []);
  return ref;
}
