import { beforeEach, expect, test, vi } from "vitest";
import { page } from "./page";

beforeEach(() => {
  vi.resetModules();
});

test("what is kept is there again, and gone when it is forgotten", async () => {
  const { local, session } = page();
  const { keep, kept } = await import("../src/offline/device");
  expect(kept("a")).toBeNull();
  expect(keep("a", "0.14")).toBe(true);
  expect(local.held.get("a")).toBe("0.14");
  expect(keep("a", "here", "session")).toBe(true);
  expect(session.held.get("a")).toBe("here");
  expect(kept("a")).toBe("0.14");
  expect(keep("a", null)).toBe(true);
  expect(kept("a")).toBeNull();
});

test("a store that is full, or forbidden, keeps things in the page and says so", async () => {
  const { local } = page();
  const { keep, kept } = await import("../src/offline/device");
  local.full = true;
  expect(keep("a", "0.14")).toBe(false);
  expect(kept("a")).toBe("0.14");
  local.full = false;
  expect(keep("a", "0.15")).toBe(true);
  expect(local.held.get("a")).toBe("0.15");
  vi.stubGlobal("window", {
    get localStorage(): never {
      throw new Error("SecurityError");
    },
  });
  expect(keep("b", "x")).toBe(false);
  expect(kept("b")).toBe("x");
  expect(keep("b", null)).toBe(true);
  expect(kept("b")).toBeNull();
});
