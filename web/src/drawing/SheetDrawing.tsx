import { type MouseEvent, memo, use, useEffect, useRef } from "react";
import { drawnOver, incrementAt, numbersOf, partAt } from "./paint";
import { Easel } from "./easel";
import type { Sheet, Xy } from "./geometry";
import { GlimpsesContext } from "./glimpses";
import { type Placed, frameFor } from "./placing";
import { endsOf, tagsOf } from "./tags";

/** Dots a pixel: as many as the screen has, but enough for paper. */
const LEAST_DOTS = 2;

interface Props extends Placed {
  /** What shows band, wedge and margin much larger in a corner: the sheet, or one of a moment ago. */
  inset?: Sheet | undefined;
  hasScaleBar?: boolean;
  selected: number | null;
  onSelect?: ((order: number) => void) | undefined;
  /** The paths of the lengths that are drawn over it; keeps its identity. */
  lengths?: readonly string[] | undefined;
  /** A part of the preparation was tapped. */
  onPart?: ((path: string) => void) | undefined;
}

/** One view of a plan, painted; an increment that is tapped is picked, and so is the part that it lies in. */
export const SheetDrawing = memo(function SheetDrawing({
  inset,
  hasScaleBar = true,
  selected,
  onSelect,
  lengths,
  onPart,
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
    easel.current.show({ ...look, lengths, sharpness });
  }, [
    sheet,
    orientation,
    width,
    height,
    box,
    scale,
    selected,
    inset,
    hasScaleBar,
    lengths,
    sharpness,
  ]);

  useEffect(
    () => (glimpses && easel.current ? glimpses.hold(easel.current) : undefined),
    [glimpses, width, height],
  );

  function under(event: MouseEvent<HTMLCanvasElement>): number | null {
    return incrementAt(sheet, frameFor(placed), placeOf(event));
  }

  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`Drawing: ${sheet.title}`}
      data-scale={frameFor(placed).scale.toFixed(3)}
      data-numbers={JSON.stringify(numbered(placed, selected, lengths))}
      style={{ display: "block", width, height }}
      onClick={(event) => {
        const order = under(event);
        if (order !== null) onSelect?.(order);
        const part = partAt(sheet, frameFor(placed), placeOf(event));
        if (part !== null) onPart?.(part);
      }}
      onMouseMove={(event) => {
        if (event.buttons > 0 || !onSelect) return;
        event.currentTarget.style.cursor = under(event) === null ? "" : "pointer";
      }}
    />
  );
});

/** Returns the numbers of the increments as they are painted. */
function numbered(placed: Placed, selected: number | null, lengths?: readonly string[]) {
  const { sheet } = placed;
  const frame = frameFor(placed);
  const over = drawnOver(sheet, lengths);
  const covered = [...tagsOf(over, sheet, frame, placed), ...endsOf(over, frame)];
  return numbersOf(sheet, frame, selected, covered);
}

/** Returns where on the canvas a mouse is. */
function placeOf({ currentTarget, clientX, clientY }: MouseEvent<HTMLCanvasElement>): Xy {
  const corner = currentTarget.getBoundingClientRect();
  return [clientX - corner.left, clientY - corner.top];
}
