import { type MouseEvent, memo, use, useEffect, useRef } from "react";
import { incrementAt } from "./paint";
import { Easel } from "./easel";
import type { Sheet } from "./geometry";
import { GlimpsesContext } from "./glimpses";
import { type Placed, frameFor } from "./placing";

/** Dots a pixel: as many as the screen has, but enough for paper. */
const LEAST_DOTS = 2;

interface Props extends Placed {
  /** What shows band, wedge and margin much larger in a corner: the sheet, or one of a moment ago. */
  inset?: Sheet | undefined;
  hasScaleBar?: boolean;
  selected: number | null;
  onSelect?: ((order: number) => void) | undefined;
}

/** One view of a plan, painted; an increment that is clicked is picked. */
export const SheetDrawing = memo(function SheetDrawing({
  inset,
  hasScaleBar = true,
  selected,
  onSelect,
  ...placed
}: Props) {
  const { sheet, width, height, orientation, box, scale } = placed;
  const canvas = useRef<HTMLCanvasElement>(null);
  const easel = useRef<Easel | null>(null);
  const glimpses = use(GlimpsesContext);
  const sharpness = Math.max(window.devicePixelRatio, LEAST_DOTS);
  useEffect(() => {
    if (!canvas.current || width < 1 || height < 1) return;
    easel.current ??= new Easel(canvas.current);
    const look = { sheet, orientation, width, height, box, scale, selected, inset, hasScaleBar };
    easel.current.show({ ...look, sharpness });
  }, [sheet, orientation, width, height, box, scale, selected, inset, hasScaleBar, sharpness]);

  useEffect(
    () => (glimpses && easel.current ? glimpses.hold(easel.current) : undefined),
    [glimpses, width, height],
  );

  function under(event: MouseEvent<HTMLCanvasElement>): number | null {
    const corner = event.currentTarget.getBoundingClientRect();
    const at: [number, number] = [event.clientX - corner.left, event.clientY - corner.top];
    return incrementAt(sheet, frameFor(placed), at);
  }

  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`Drawing: ${sheet.title}`}
      data-scale={frameFor(placed).scale.toFixed(3)}
      style={{ display: "block", width, height }}
      onClick={(event) => {
        const order = under(event);
        if (order !== null) onSelect?.(order);
      }}
      onMouseMove={(event) => {
        if (event.buttons > 0 || !onSelect) return;
        event.currentTarget.style.cursor = under(event) === null ? "" : "pointer";
      }}
    />
  );
});
