import { describe, expect, it } from "vitest";

import { requestsOf } from "./early";

describe("what is asked for early", () => {
  it("is written as the pages write it", () => {
    expect(requestsOf("/runs", "?sort=0-60%20mph|rollout&page=2")[0]).toBe(
      "/api/v1/runs/?sort=0-60%20mph%7Crollout&page=2",
    );
    expect(requestsOf("/runs", "")[0]).toBe("/api/v1/runs/");
    expect(requestsOf("/compare/7", "")[0]).toBe("/api/v1/comparisons/7/");
    expect(requestsOf("/runs/12", "")[0]).toBe("/api/v1/runs/12/");
  });

  it("is the cars where nobody knows more", () => {
    expect(requestsOf("/help", "")).toEqual(["/api/v1/cars/?page_size=500"]);
  });
});
