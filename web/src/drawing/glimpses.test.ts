import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Case } from "../api/client";
import { Newest } from "../shell/newest";
import type { Easel } from "./easel";
import type { Painted, Unpainted } from "./painting";
import { glimpseOf } from "./painting";

// Another file may have had it with the real painter.
vi.resetModules();

const painter = vi.hoisted(() => ({
  asked: [] as string[],
  answer: [] as ((p: unknown) => void)[],
}));
vi.mock("./painter", () => ({
  hasPainter: () => true,
  painted: ({ body }: { body: string }) => {
    painter.asked.push((JSON.parse(body) as { case: { height: string } }).case.height);
    return new Promise((resolve) => painter.answer.push(resolve));
  },
}));

const LOOK = { view: "section", hasInset: true, width: 500 } as Unpainted;
const { Glimpses } = await import("./glimpses");

function caseOf(height: string): Case {
  return { height } as unknown as Case;
}

/** An easel that notes down what is done to it. */
function easel() {
  const done: string[] = [];
  const it = {
    unpainted: LOOK,
    hangFor: (_: Unpainted, picture: string) => {
      done.push(`hang ${picture}`);
      return true;
    },
    comeBack: () => done.push("come back"),
  };
  return { done, easel: it as unknown as Easel };
}

function made(height: string, seconds: number): Painted {
  return {
    id: 0,
    pictures: [`picture of ${height}` as unknown as ImageBitmap],
    glimpse: {
      dimensions: { section: [] },
      figures: { light_seconds: { value: seconds, unit: "s", detail: "" } },
    },
  };
}

// More than what follows from an answer takes, however slow the machine is.
const TURNS = 2000;

/** Answers what was asked last, and lets all that follows from it happen. */
async function answer(with_: Painted | null) {
  painter.answer.at(-1)?.(with_);
  for (let turn = 0; turn < TURNS; turn++) await Promise.resolve();
}

describe("Glimpses", () => {
  beforeEach(() => {
    // A glimpse takes several frames; here they follow at once.
    vi.stubGlobal("requestAnimationFrame", (run: (now: number) => void) => {
      queueMicrotask(() => run(performance.now()));
    });
    painter.asked.length = painter.answer.length = 0;
  });

  it("asks for one value at a time, then for the newest", async () => {
    const { easel: one, done } = easel();
    const glimpses = new Glimpses(new Newest());
    glimpses.hold(one);
    for (const height of ["4.6", "4.7", "4.8"]) void glimpses.ask({ data: caseOf(height) });
    expect(painter.asked).toEqual(["4.6"]);
    await answer(made("4.6", 60));
    expect(painter.asked).toEqual(["4.6", "4.8"]);
    expect(glimpses.figures()?.light_seconds?.value).toBe(60);
    await answer(made("4.8", 65));
    expect(done).toEqual(["hang picture of 4.6", "hang picture of 4.8"]);
    expect(glimpses.figures()?.light_seconds?.value).toBe(65);
  });

  it("keeps what did not change the same object", async () => {
    const glimpses = new Glimpses(new Newest());
    glimpses.hold(easel().easel);
    void glimpses.ask({ data: caseOf("4.6") });
    await answer(made("4.6", 60));
    const { light_seconds: before } = glimpses.figures() ?? {};
    void glimpses.ask({ data: caseOf("4.7") });
    await answer(made("4.7", 60));
    expect(glimpses.figures()?.light_seconds).toBe(before);
  });

  it("gives a case without a plan up to the page, and hangs nothing", async () => {
    const { easel: one, done } = easel();
    const glimpses = new Glimpses(new Newest());
    glimpses.hold(one);
    const giveUp = vi.fn();
    void glimpses.ask({ data: caseOf("20"), giveUp });
    await answer(null);
    expect(giveUp).toHaveBeenCalledOnce();
    expect(done).toEqual([]);
  });

  it("takes turns with the page, whose plan comes before what waits", async () => {
    const previews = new Newest();
    const glimpses = new Glimpses(previews);
    glimpses.hold(easel().easel);
    void glimpses.ask({ data: caseOf("4.6") });
    void glimpses.ask({ data: caseOf("4.7") });
    const page = vi.fn(() => Promise.resolve());
    void previews.ask({}, page);
    await Promise.resolve();
    expect(page).not.toHaveBeenCalled();
    await answer(made("4.6", 60));
    expect(page).toHaveBeenCalledOnce();
    expect(painter.asked).toEqual(["4.6"]);
  });

  it("warms up once and leaves nothing behind, but never what a drag shows", async () => {
    const glimpses = new Glimpses(new Newest());
    glimpses.hold(easel().easel);
    void glimpses.warmUp(caseOf("4.5"));
    void glimpses.ask({ data: caseOf("4.6") });
    await answer(made("4.5", 55));
    await answer(made("4.6", 60));
    expect(glimpses.figures()?.light_seconds?.value).toBe(60);
    glimpses.clear(false);
    void glimpses.warmUp(caseOf("4.5"));
    expect(painter.asked).toEqual(["4.5", "4.6"]);

    const quiet = new Glimpses(new Newest());
    quiet.hold(easel().easel);
    void quiet.warmUp(caseOf("4.5"));
    await answer(made("4.5", 55));
    expect(quiet.isShowing).toBe(false);
  });

  it("gives way to the page's plan, and hangs again one that was shown before", async () => {
    const { easel: one, done } = easel();
    const glimpses = new Glimpses(new Newest());
    const letGo = glimpses.hold(one);
    const heard = vi.fn();
    glimpses.subscribe(heard);
    void glimpses.ask({ data: caseOf("4.6"), held: { path: "height", text: "4.6" } });
    await answer(made("4.6", 60));
    expect([glimpses.heldAt("height"), glimpses.heldAt("width")]).toEqual(["4.6", undefined]);
    expect(glimpses.isShowing).toBe(true);
    heard.mockClear();
    glimpses.clear(true);
    expect(glimpses.isShowing).toBe(false);
    expect(glimpses.figures() ?? glimpses.heldAt("height")).toBeUndefined();
    expect(heard).toHaveBeenCalledOnce();
    expect(done.at(-1)).toBe("come back");
    letGo();
    expect(glimpses.isReady).toBe(false);
  });
});

describe("glimpseOf", () => {
  const sheet = { view: "section", dimensions: [{ case_path: "a" }], shapes: [1] };
  const figure = { id: "filling", value: 66.9, unit: "mm³", detail: "0.1 g", how: "…", rules: [1] };
  const preview = { plan: { figures: [figure] }, drawing: { sheets: [sheet] } } as never;

  it("brings back what moves, and the sheets of the looks that are asked for", () => {
    const found = glimpseOf(preview, [LOOK, { ...LOOK, view: "above", hasInset: false }]);
    expect(found?.glimpse).toEqual({
      dimensions: { section: [{ case_path: "a" }] },
      figures: { filling: { value: 66.9, unit: "mm³", detail: "0.1 g" } },
    });
    expect(found?.looks).toEqual([{ width: 500, sheet, inset: sheet }]);
  });

  it("has nothing to show of a case that can't be planned", () => {
    expect(glimpseOf({ plan: null, drawing: null }, [LOOK])).toBeNull();
  });
});
