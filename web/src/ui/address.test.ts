import { describe, expect, it } from "vitest";
import { Asked, changed } from "./address";

describe("the address", () => {
  it("drops what is empty and writes lists with points", () => {
    const next = changed(new URLSearchParams("a=1&b=2"), { a: undefined, b: false, columns: ["x", "y"], down: true });
    expect(next.toString()).toBe("columns=x.y&down=1");
  });

  it("loses no change that comes before the last one was drawn", () => {
    const asked = new Asked(new URLSearchParams(""));
    const first = asked.ask({ strike: 2 });
    asked.ask({ under: "7" });
    asked.came(first); // the page is drawn with the first while the second is on its way
    expect(asked.ask({ strike: 3 }).toString()).toBe("strike=3&under=7");
  });

  it("starts anew where another page was opened meanwhile", () => {
    const asked = new Asked(new URLSearchParams("strike=1"));
    asked.ask({ strike: 2 });
    asked.came(new URLSearchParams("recording=9"));
    expect(asked.ask({ strike: 1 }).toString()).toBe("recording=9&strike=1");
  });
});
