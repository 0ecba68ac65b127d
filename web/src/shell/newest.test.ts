import { describe, expect, it } from "vitest";
import { Newest } from "./newest";

/** Work that ends when it is told to. */
function works(done: string[]) {
  const ends: (() => void)[] = [];
  const work = (name: string) => () =>
    new Promise<void>((resolve) => {
      done.push(name);
      ends.push(resolve);
    });
  return { work, end: () => ends.shift()?.() };
}

const turn = () => new Promise((resolve) => setTimeout(resolve));

describe("Newest", () => {
  it("does one thing at a time, then the newest of what was asked for meanwhile", async () => {
    const done: string[] = [];
    const { work, end } = works(done);
    const newest = new Newest();
    const [grip, page] = [{}, {}];
    void newest.ask(grip, work("a"));
    void newest.ask(grip, work("b"));
    const all = newest.ask(page, work("c"));
    expect([newest.hasNext, newest.isBusyFor(grip), newest.isBusyFor(page)]).toEqual([
      true,
      true,
      true,
    ]);
    newest.drop(grip);
    end();
    await turn();
    expect(done).toEqual(["a", "c"]);
    expect([newest.hasNext, newest.isBusyFor(grip)]).toEqual([false, false]);
    end();
    await all;
    expect(newest.isBusyFor(page)).toBe(false);
  });

  it("goes on after what failed, and drops only what waits for the one who asks", async () => {
    const done: string[] = [];
    const { work, end } = works(done);
    const newest = new Newest();
    await expect(newest.ask({}, () => Promise.reject(new Error("away")))).rejects.toThrow("away");
    const [grip, page] = [{}, {}];
    void newest.ask(grip, work("a"));
    void newest.ask(page, work("b"));
    newest.drop(grip);
    end();
    await turn();
    void newest.ask(page, work("c"));
    newest.drop(page);
    end();
    await turn();
    expect(done).toEqual(["a", "b"]);
  });
});
