import { describe, expect, it } from "vitest";
import { clockOf } from "./time";

describe("clockOf", () => {
  it("writes in the practice's zone, not the device's", () => {
    const late = "2026-11-25T23:30:00Z";
    expect(clockOf("Atlantic/Reykjavik").time(late)).toBe("23:30");
    expect(clockOf("Asia/Tokyo").time(late)).toBe("08:30");
    expect(clockOf("Asia/Tokyo").day(late)).toBe("Thursday 26 November");
    expect(clockOf("America/New_York").moment(late)).toBe("25 November 2026 at 18:30");
  });
});
