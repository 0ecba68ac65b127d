import { act, renderHook } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { keepFor, useKept } from "./kept";

beforeEach(() => sessionStorage.clear());

function form(first: { name: string }) {
  return renderHook(() => useKept("form", first)).result;
}

describe("what is typed into a form", () => {
  it("outlives a reload until it is forgotten", () => {
    const before = form({ name: "Bo" });
    act(() => before.current[1]({ name: "Bo Lind" }));
    const after = form({ name: "Bo" });
    expect(after.current[0].name).toBe("Bo Lind");
    act(() => after.current[2]());
    expect(form({ name: "Bo" }).current[0].name).toBe("Bo");
  });

  it("gives way to what was changed elsewhere meanwhile", () => {
    const before = form({ name: "Bo" });
    act(() => before.current[1]({ name: "Bo Lind" }));
    expect(form({ name: "Bo Mensah" }).current[0].name).toBe("Bo Mensah");
  });

  it("is nobody else's who signs in at the same tab", () => {
    keepFor("ines");
    const before = form({ name: "" });
    act(() => before.current[1]({ name: "Thea" }));
    keepFor("ines");
    expect(form({ name: "" }).current[0].name).toBe("Thea");
    keepFor("tomas");
    expect(form({ name: "" }).current[0].name).toBe("");
  });
});
