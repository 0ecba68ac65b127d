import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { minutesSeconds, serverTime, setByServer } from "./clock";
import { eventOf, useChairKeys } from "./keys";
import { deviceName, forgetUnsent, keepUnsent, nextSequence, unsentOf, uuid } from "./outbox";
import { type Kind, useRun } from "./useRun";

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
    renderHook(() => useChairKeys(false, false, (kind) => heard.push(kind)));
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

describe("clock", () => {
  it("follows the server's time, not the device's", () => {
    const ahead = 90_000;
    setByServer(new Date(Date.now() + ahead).toISOString());
    expect(Math.abs(serverTime() - Date.now() - ahead)).toBeLessThan(50);
    setByServer(new Date().toISOString());
  });

  it("writes minutes and seconds", () => {
    expect(minutesSeconds(0)).toBe("0:00");
    expect(minutesSeconds(61.9)).toBe("1:01");
    expect(minutesSeconds(-125)).toBe("2:05");
  });
});

describe("outbox", () => {
  it("keeps one unsent event a run until it is acknowledged", () => {
    const event = eventFor("a");
    keepUnsent(7, event);
    expect(unsentOf(7)).toEqual(event);
    expect(unsentOf(8)).toBeNull();
    forgetUnsent(7);
    expect(unsentOf(7)).toBeNull();
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

function eventFor(step: string) {
  return {
    client_id: uuid(),
    kind: "step_done" as const,
    step_id: step,
    expected_revision: 0,
    device: "d",
    device_sequence: 1,
    client_wall: new Date().toISOString(),
    client_monotonic_ms: 1,
  };
}

/** A server of one run with two steps, which can be away or refuse. */
class FakeServer {
  revision = 0;
  seen: string[] = [];
  away = false;
  refuse: string | null = null;

  state() {
    return {
      revision: this.revision,
      step_id: `step.${this.revision}`,
      index: this.revision,
      count: 9,
      step_began: new Date().toISOString(),
      remedy: "",
      done: [],
      finished: false,
      record_id: null,
      server_now: new Date().toISOString(),
    };
  }

  fetch = async (request: Request): Promise<Response> => {
    if (this.away) throw new TypeError("network");
    const json = (body: unknown, status = 200) =>
      new Response(JSON.stringify(body), {
        status,
        headers: { "Content-Type": "application/json" },
      });
    if (request.method === "GET") return json({ id: 1, state: this.state() });
    const event = (await request.json()) as { client_id: string };
    if (this.refuse) return json({ code: "run.moved_on", message: this.refuse, problems: [] }, 409);
    if (!this.seen.includes(event.client_id)) {
      this.seen.push(event.client_id);
      this.revision += 1;
    }
    return json(this.state());
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

  it("moves on once the server has acknowledged", async () => {
    const server = new FakeServer();
    const { result } = open(server);
    await waitFor(() => expect(result.current.run?.state.revision).toBe(0));
    act(() => result.current.happen("step_done"));
    expect(unsentOf(1)).not.toBeNull();
    await waitFor(() => expect(result.current.run?.state.revision).toBe(1));
    expect(result.current.unsent).toBeNull();
    expect(unsentOf(1)).toBeNull();
  });

  it("keeps what happened while the server is away, and a second press waits", async () => {
    const server = new FakeServer();
    const { result } = open(server);
    await waitFor(() => expect(result.current.run).toBeDefined());
    server.away = true;
    act(() => result.current.happen("step_done"));
    const kept = unsentOf(1);
    act(() => result.current.happen("step_done"));
    expect(unsentOf(1)).toEqual(kept);
    server.away = false;
    await waitFor(() => expect(result.current.unsent).toBeNull(), { timeout: 4000 });
    expect(server.seen).toEqual([kept?.client_id]);
    expect(server.revision).toBe(1);
  });

  it("sends after a reload what an earlier page left unsent, with the same id", async () => {
    const server = new FakeServer();
    const left = eventFor("step.0");
    keepUnsent(1, left);
    const { result } = open(server);
    await waitFor(() => expect(server.seen).toEqual([left.client_id]));
    await waitFor(() => expect(result.current.unsent).toBeNull());
  });

  it("drops what another device was faster with, and says so", async () => {
    const server = new FakeServer();
    const { result } = open(server);
    await waitFor(() => expect(result.current.run).toBeDefined());
    server.refuse = "another device moved the run on";
    act(() => result.current.happen("step_done"));
    await waitFor(() => expect(result.current.said).toBe("another device moved the run on"));
    expect(unsentOf(1)).toBeNull();
    expect(server.seen).toEqual([]);
  });
});
