import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Step } from "../api/client";
import { minutesSeconds, serverTime, setByServer, workedSeconds } from "./clock";
import { eventOf, useChairKeys } from "./keys";
import { type RunState, advanced } from "./fold";
import folds from "./fold.cases.json";
import {
  type RunEvent,
  deviceName,
  keepUnsent,
  nextSequence,
  stillMeant,
  unsentOf,
  uuid,
} from "./outbox";
import { SimulatedPedal, keyboardPedal } from "./pedal";
import { type Tone, useSound, useTone } from "./sound";
import { type Target, offTarget } from "./Targets";
import { type Kind, useRun } from "./useRun";
import { Windows } from "./Windows";

const simulated = new SimulatedPedal();
const PEDALS = [keyboardPedal, simulated];
const SILENT = { isOn: false, toggle: () => undefined, play: () => undefined };

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("keys", () => {
  it("go on with Space or PageDown, back with Backspace or PageUp", () => {
    for (const key of [" ", "PageDown"]) {
      expect(eventOf(key, false, false)).toBe("step_done");
      expect(eventOf(key, false, true)).toBe("finished");
    }
    for (const key of ["Backspace", "PageUp"]) expect(eventOf(key, true, false)).toBe("step_back");
  });

  it("never pass a check with the key that goes on", () => {
    expect(eventOf(" ", true, false)).toBeNull();
    expect(eventOf("PageDown", true, true)).toBeNull();
    expect(eventOf("p", true, false)).toBe("check_passed");
    expect(eventOf("F", true, false)).toBe("check_failed");
    expect(eventOf("p", false, false)).toBeNull();
    expect(eventOf("x", true, false)).toBeNull();
  });

  function listening() {
    const heard: Kind[] = [];
    renderHook(() => useChairKeys(false, false, PEDALS, (kind) => heard.push(kind)));
    return heard;
  }

  it("ignore a key that repeats and a press too soon", () => {
    vi.useFakeTimers({ toFake: ["performance"] });
    vi.advanceTimersByTime(1000);
    const heard = listening();
    fireEvent.keyDown(window, { key: " " });
    fireEvent.keyDown(window, { key: " ", repeat: true });
    fireEvent.keyDown(window, { key: "PageDown" });
    expect(heard).toEqual(["step_done"]);
    vi.advanceTimersByTime(401);
    fireEvent.keyDown(window, { key: "PageDown" });
    expect(heard).toEqual(["step_done", "step_done"]);
  });

  it("leave shortcuts and text fields alone, and keep Space from pressing buttons", () => {
    const heard = listening();
    fireEvent.keyDown(window, { key: "p", ctrlKey: true });
    const input = document.body.appendChild(document.createElement("input"));
    fireEvent.keyDown(input, { key: " ", bubbles: true });
    expect(heard).toEqual([]);
    expect(fireEvent.keyUp(window, { key: " " })).toBe(false);
    input.remove();
  });
});

describe("pedals", () => {
  it("that are plugged in and simulated ones do the same, one press at a time", () => {
    vi.useFakeTimers({ toFake: ["performance"] });
    vi.advanceTimersByTime(1000);
    const heard: Kind[] = [];
    renderHook(() => useChairKeys(false, false, PEDALS, (kind) => heard.push(kind)));
    fireEvent.keyDown(window, { key: "PageDown", ctrlKey: true });
    expect(heard).toEqual([]);
    simulated.press("on");
    fireEvent.keyDown(window, { key: "PageDown" });
    expect(heard).toEqual(["step_done"]);
    vi.advanceTimersByTime(401);
    fireEvent.keyDown(window, { key: "PageUp" });
    vi.advanceTimersByTime(401);
    simulated.press("back");
    expect(heard).toEqual(["step_done", "step_back", "step_back"]);
  });

  it("never pass a check, and are let go of with the view", () => {
    const heard: Kind[] = [];
    const view = renderHook(() => useChairKeys(true, false, PEDALS, (kind) => heard.push(kind)));
    simulated.press("on");
    view.unmount();
    simulated.press("back");
    expect(heard).toEqual([]);
  });
});

describe("sound", () => {
  it("tells once that a time is over, not where it was so before", () => {
    const played: Tone[] = [];
    const sound = { isOn: true, toggle: () => undefined, play: (t: Tone) => played.push(t) };
    const view = renderHook(({ isSo, about }) => useTone(sound, "over", isSo, about), {
      initialProps: { isSo: false, about: "one" },
    });
    view.rerender({ isSo: true, about: "one" });
    view.rerender({ isSo: true, about: "one" });
    view.rerender({ isSo: true, about: "two" });
    expect(played).toEqual(["over"]);
  });

  it("is silent until started", () => {
    const made = vi.fn();
    vi.stubGlobal("AudioContext", made);
    const { result } = renderHook(() => useSound(false));
    act(() => void window.dispatchEvent(new Event("pointerdown")));
    result.current.play("over");
    expect(result.current.isOn).toBe(false);
    expect(made).not.toHaveBeenCalled();
  });

  it("starts with the first press for whoever hears, and is switched off after", () => {
    const audio = { resume: vi.fn(), suspend: vi.fn(), close: vi.fn(), state: "running" };
    vi.stubGlobal("AudioContext", function () {
      return audio;
    });
    const { result } = renderHook(() => useSound(true));
    expect(result.current.isOn).toBe(false);
    act(() => void window.dispatchEvent(new Event("keydown")));
    expect(result.current.isOn).toBe(true);
    expect(audio.resume).toHaveBeenCalledOnce();
    act(() => result.current.toggle());
    act(() => void window.dispatchEvent(new Event("pointerdown")));
    expect(result.current.isOn).toBe(false);
  });
});

describe("clock", () => {
  it("follows the server's time, not the device's", () => {
    const ahead = 90_000;
    const now = Date.now();
    setByServer(new Date(now + ahead).toISOString(), now);
    expect(Math.abs(serverTime() - Date.now() - ahead)).toBeLessThan(50);
    // An answer that took four seconds and may have been written at any time of them says no better.
    setByServer(new Date(now + ahead).toISOString(), now - 4000);
    expect(Math.abs(serverTime() - Date.now() - ahead)).toBeLessThan(50);
    // One that can't be so unless a clock was put right does.
    setByServer(new Date(now).toISOString(), now - 4000);
    expect(Math.abs(serverTime() - Date.now() - 2000)).toBeLessThan(50);
    setByServer(new Date().toISOString(), Date.now());
  });

  it("writes minutes and seconds", () => {
    expect(minutesSeconds(0)).toBe("0:00");
    expect(minutesSeconds(61.9)).toBe("1:01");
    expect(minutesSeconds(-125)).toBe("2:05");
  });
});

describe("outbox", () => {
  it("keeps the unsent events of a run in order until they are acknowledged", () => {
    const events = [eventFor("a"), eventFor("b")];
    keepUnsent(7, events);
    expect(unsentOf(7)).toEqual(events);
    expect(unsentOf(8)).toEqual([]);
    keepUnsent(7, []);
    expect(localStorage.length).toBe(0);
  });

  it("does what two devices both did once, and keeps what this one did from there on", () => {
    const events = ["a", "b", "c", "d"].map((step, i) => eventFor(step, { expected_revision: i }));
    const meant = stillMeant(events, "c", 5);
    expect(meant.map((e) => [e.step_id, e.expected_revision])).toEqual([
      ["c", 5],
      ["d", 6],
    ]);
    expect(meant.map((e) => e.client_id)).toEqual(events.slice(2).map((e) => e.client_id));
    expect(stillMeant(events, "elsewhere", 5)).toEqual([]);
  });

  it("names the device once and numbers its events", () => {
    expect(deviceName()).toBe(deviceName());
    expect([nextSequence(), nextSequence(), nextSequence()]).toEqual([1, 2, 3]);
  });

  it("makes version 4 ids that differ", () => {
    const ids = Array.from({ length: 200 }, uuid);
    expect(new Set(ids).size).toBe(200);
    for (const id of ids)
      expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  });
});

function eventFor(step: string, changes: Partial<RunEvent> = {}): RunEvent {
  return {
    client_id: uuid(),
    kind: "step_done",
    step_id: step,
    expected_revision: 0,
    device: "d",
    device_sequence: 1,
    client_wall: new Date().toISOString(),
    client_monotonic_ms: 1,
    age_ms: 0,
    detail: {},
    ...changes,
  };
}

function stateAt(step: string, changes: Partial<RunState> = {}): RunState {
  return {
    revision: 0,
    step_id: step,
    index: 0,
    count: 9,
    step_began: new Date().toISOString(),
    plan_number: 1,
    detour: [],
    detour_at: 0,
    paused_at: null,
    paused_why: "",
    paused_s: 0,
    has_placed: false,
    dam_torn: false,
    lots: [],
    measured: [],
    mixes: [],
    remedy: "",
    finished: false,
    record_id: null,
    server_now: new Date().toISOString(),
    ...changes,
  };
}

function stepOf(
  id: string,
  check: object | null = null,
  redo: string[] = [],
  more: { stale?: string[] | null; hold?: string | null } = {},
): Step {
  const words = { question: "In order?", remedy: "Do it again.", ...check };
  const wet = { redo, reason: { code: "wet", params: {}, text: "Dry it." } };
  const stale = more.stale && { ...wet, redo: more.stale };
  const rest = { stale, hold: more.hold };
  return { id, actor: "dentist", check: check && words, wet, ...rest } as unknown as Step;
}

describe("the fold", () => {
  it.each(folds.cases)("as the server's: $name", (expected) => {
    const steps = folds.steps.map((s) => stepOf(s.id, s.check, s.redo, s));
    let state = stateAt("isolate.dam", { count: steps.length });
    for (const kind of expected.kinds) {
      const event = eventFor(state.step_id, { kind: kind as Kind });
      state = advanced(steps, state, event) ?? state;
    }
    expect({
      name: expected.name,
      kinds: expected.kinds,
      at: state.step_id,
      index: state.index,
      detour: state.detour,
      remedy: state.remedy !== "",
      paused: state.paused_at !== null,
      finished: state.finished,
    }).toEqual(expected);
  });

  it("keeps the last figure that was tapped in to a target, and no other's", () => {
    const target = { id: "cusp", value: -0.5, low: -1, high: -0.2, over: "down", under: "up" };
    const steps = [{ ...stepOf("a"), targets: [target] as Target[] }, stepOf("b")];
    let state = stateAt("a");
    const typed = (id: string, value: number) =>
      advanced(steps, state, eventFor("a", { kind: "measured", detail: { id, value } }));
    state = typed("cusp", 0.1) ?? state;
    state = typed("cusp", -0.4) ?? state;
    expect(state.measured).toEqual([{ step_id: "a", id: "cusp", value: -0.4 }]);
    expect(state.step_id).toBe("a");
    expect(typed("ridge", 0)).toBeNull();
    const said = [-1.1, -1, -0.2, -0.1].map((value) => offTarget(target as Target, value));
    expect(said).toEqual(["up", "", "", "down"]);
  });

  it("takes a mix as ready once, until it is discarded", () => {
    const step = {
      ...stepOf("a", null, [], { stale: ["a"] }),
      within: [{ step: "mix", seconds: 9 }],
    };
    const steps = [step, { ...stepOf("mix"), role: "mix", actor: "assistant" }] as Step[];
    let state = stateAt("a");
    const happened = (kind: Kind) =>
      (state = advanced(steps, state, eventFor("a", { kind, detail: { id: "mix" } })) ?? state);
    expect(happened("mixed").mixes).toHaveLength(1);
    expect(happened("mixed").mixes).toHaveLength(1);
    happened("mix_too_old");
    expect(happened("mixed").mixes.map((mix) => mix.is_discarded)).toEqual([true, false]);
  });

  it("counts pauses out of the time worked", () => {
    const at = (seconds: number) => new Date(1e12 + seconds * 1000).toISOString();
    let state = stateAt("a", { step_began: at(0) });
    const steps = [stepOf("a"), stepOf("b")];
    const happened = (kind: Kind, seconds: number) =>
      advanced(steps, state, eventFor("a", { kind, client_wall: at(seconds) })) ?? state;
    state = happened("paused", 10);
    expect(workedSeconds(state, Date.parse(at(60)))).toBe(10);
    state = happened("resumed", 60);
    expect(workedSeconds(state, Date.parse(at(65)))).toBe(15);
  });
});

/** A server of one run with nine steps, which can be away, and to which another device can talk. */
class FakeServer {
  revision = 0;
  seen: string[] = [];
  sent = 0;
  away = false;

  run() {
    const ids = Array.from({ length: 9 }, (_, i) => `step.${i}`);
    const state = stateAt(`step.${this.revision}`, {
      revision: this.revision,
      index: this.revision,
    });
    return { id: 1, teachers: [], sequence: ids, steps: ids.map((id) => stepOf(id)), state };
  }

  fetch = async (request: Request): Promise<Response> => {
    if (this.away) throw new TypeError("network");
    const json = (body: unknown, status = 200) =>
      new Response(JSON.stringify(body), {
        status,
        headers: { "Content-Type": "application/json" },
      });
    if (request.method === "GET") return json(this.run());
    const event = (await request.json()) as RunEvent;
    this.sent += 1;
    if (!this.seen.includes(event.client_id)) {
      if (event.expected_revision !== this.revision)
        return json({ code: "run.moved_on", message: "moved on", problems: [] }, 409);
      this.seen.push(event.client_id);
      this.revision += 1;
    }
    return json(this.run().state);
  };
}

describe("useRun", () => {
  function open(server: FakeServer) {
    vi.stubGlobal("fetch", server.fetch);
    const queries = new QueryClient();
    const wrapper = ({ children }: { children: ReactNode }) => (
      <QueryClientProvider client={queries}>{children}</QueryClientProvider>
    );
    return renderHook(() => useRun(1), { wrapper });
  }

  async function opened(server: FakeServer) {
    const { result } = open(server);
    await waitFor(() => expect(result.current.run?.state.revision).toBe(server.revision));
    return result;
  }

  it("moves on at once, and keeps what happened until the server has it", async () => {
    const server = new FakeServer();
    const result = await opened(server);
    act(() => result.current.happen("step_done"));
    expect(result.current.run?.state.step_id).toBe("step.1");
    expect(unsentOf(1)).toHaveLength(1);
    await waitFor(() => expect(result.current.unsent).toBe(0));
    expect(result.current.run?.state.revision).toBe(1);
    expect(unsentOf(1)).toEqual([]);
  });

  it("goes on while the server is away, and catches up without loss or double", async () => {
    const server = new FakeServer();
    const result = await opened(server);
    server.away = true;
    for (let i = 0; i < 3; i += 1) act(() => result.current.happen("step_done"));
    expect(result.current.run?.state.step_id).toBe("step.3");
    const kept = unsentOf(1).map((e) => e.client_id);
    expect(kept).toHaveLength(3);
    server.away = false;
    await waitFor(() => expect(result.current.unsent).toBe(0), { timeout: 4000 });
    expect(server.seen).toEqual(kept);
    expect(server.revision).toBe(3);
  });

  it("sends after a reload what an earlier page left unsent, with the same id", async () => {
    const server = new FakeServer();
    const left = eventFor("step.0");
    keepUnsent(1, [left]);
    const { result } = open(server);
    await waitFor(() => expect(server.seen).toEqual([left.client_id]));
    await waitFor(() => expect(result.current.unsent).toBe(0));
  });

  it("leaves out what another device did meanwhile, and keeps the rest", async () => {
    const server = new FakeServer();
    const result = await opened(server);
    server.away = true;
    for (let i = 0; i < 3; i += 1) act(() => result.current.happen("step_done"));
    const last = unsentOf(1)[2]?.client_id;
    server.revision = 2;
    server.away = false;
    await waitFor(() => expect(result.current.unsent).toBe(0), { timeout: 4000 });
    expect(server.seen).toEqual([last]);
    expect(result.current.run?.state.step_id).toBe("step.3");
  });

  it("makes one step of two presses at once, and says that the other was faster", async () => {
    const server = new FakeServer();
    const result = await opened(server);
    server.revision = 1;
    act(() => result.current.happen("step_done"));
    await waitFor(() => expect(result.current.said).toBe("moved on"));
    expect(unsentOf(1)).toEqual([]);
    expect(server.seen).toEqual([]);
    expect(result.current.run?.state.step_id).toBe("step.1");
  });
});

describe("windows", () => {
  const ready = { id: "ready", start_s: 80, end_s: 90 } as Step;
  const place = {
    id: "place",
    start_s: 100,
    within: [{ step: "ready", seconds: 60 }],
  } as unknown as Step;

  function shown(secondsIn: number, mixedAgo: number[] = [], isDiscarded = false) {
    const mixes = mixedAgo.map((ago) => ({
      step_id: "ready",
      at: new Date(serverTime() - ago * 1000).toISOString(),
      is_discarded: isDiscarded,
    }));
    const began = new Date(serverTime() - secondsIn * 1000).toISOString();
    const state = { step_began: began, paused_s: 0, paused_at: null, mixes } as unknown as RunState;
    return render(<Windows step={place} steps={[ready, place]} state={state} sound={SILENT} />)
      .container.textContent;
  }

  it("count down from when it was made ready, and say when it is too late", () => {
    expect(shown(20)).toContain("30 s more");
    expect(shown(55)).toContain("5 s over");
    expect(shown(55)).toContain("discard, dispense fresh");
  });

  it("count from when the mix was ready, whatever the plan counted on, but not of one that was discarded", () => {
    expect(shown(20, [12])).toContain("48 s more");
    expect(shown(20, [70, 5])).toContain("55 s more");
    expect(shown(20, [5], true)).toContain("30 s more");
  });
});
