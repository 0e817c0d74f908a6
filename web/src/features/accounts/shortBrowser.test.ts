import { describe, expect, it } from "vitest";

import { shortBrowser } from "./shortBrowser";

describe("what a browser says of itself", () => {
  it("is shortened to what a person knows theirs by", () => {
    expect(shortBrowser("Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36")).toBe(
      "computer (Linux x86_64)",
    );
    expect(shortBrowser("Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X)")).toBe(
      "phone or tablet (iPhone)",
    );
    expect(shortBrowser("Mozilla/5.0 (Linux; Android 15; K)")).toBe("phone or tablet (Linux)");
  });

  it("stays as it is where it is a program, and says so where there is nothing", () => {
    expect(shortBrowser("curl/8.5.0")).toBe("curl/8.5.0");
    expect(shortBrowser("")).toBe("unknown");
  });
});
