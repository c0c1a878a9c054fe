import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { createCursor } from "./cursor";
import { FROM_MS, TO_MS } from "./limits";

describe("the cursor", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("moves at once, and goes to the address once when it rests", () => {
    const rested = vi.fn();
    const heard = vi.fn();
    const cursor = createCursor(undefined, rested);
    cursor.subscribe(heard);
    for (let i = 0; i < 100; i++) cursor.move(2);
    expect(cursor.get()).toBe(200);
    expect(heard).toHaveBeenCalledTimes(100);
    expect(rested).not.toHaveBeenCalled();
    vi.runAllTimers();
    expect(rested.mock.calls).toEqual([[200]]);
  });

  it("follows the address, but not while it is being moved", () => {
    const cursor = createCursor(10, () => {});
    cursor.move(20);
    cursor.follow(10); // the address as it was
    expect(cursor.get()).toBe(30);
    vi.runAllTimers();
    cursor.follow(100);
    expect(cursor.get()).toBe(100);
  });

  it("stays within what is drawn, on the grid, and can be taken away", () => {
    const cursor = createCursor(0, () => {});
    cursor.set(9999);
    expect(cursor.get()).toBe(TO_MS);
    cursor.set(-9999);
    expect(cursor.get()).toBe(FROM_MS);
    cursor.set(33);
    expect(cursor.get()! % 2).toBe(0);
    cursor.set(undefined);
    expect(cursor.get()).toBeUndefined();
  });
});
