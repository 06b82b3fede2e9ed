import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ApiError, sent } from "./client";

const request = (method: string) => ({ method, clone: () => ({ method }) }) as unknown as Request;
const answers = (...statuses: (number | "no line")[]) => {
  const fetched = vi.fn(async () => {
    const status = statuses.shift();
    if (status === "no line") throw new TypeError("failed to fetch");
    return { status } as Response;
  });
  vi.stubGlobal("fetch", fetched);
  return fetched;
};

describe("a request", () => {
  beforeEach(() => vi.useFakeTimers({ toFake: ["setTimeout"] }));
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  const status = async (method: string) => {
    const answer = sent(request(method)).then(
      (response) => response.status,
      (error: Error) => error,
    );
    await vi.runAllTimersAsync();
    return answer;
  };

  it("is sent again when the database was away, or the line broke", async () => {
    const fetched = answers(503, "no line", 200);
    expect(await status("GET")).toBe(200);
    expect(fetched).toHaveBeenCalledTimes(3);
  });

  it("gives up after a while, and says what it was told", async () => {
    answers(503, 503, 503);
    expect(await status("POST")).toBe(503);
    answers("no line", "no line", "no line");
    expect(await status("GET")).toBeInstanceOf(ApiError);
  });

  it("is not sent again when it could be done twice, or was refused", async () => {
    const removing = answers(503, 200);
    expect(await status("DELETE")).toBe(503);
    const refused = answers(422, 200);
    expect(await status("PATCH")).toBe(422);
    expect([removing.mock.calls.length, refused.mock.calls.length]).toEqual([1, 1]);
  });
});
