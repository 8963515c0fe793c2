import { afterEach, expect, test, vi } from "vitest";

import { ANSWERS } from "./answers";
import { api } from "./client";

const answering = (body: string, status = 200, headers: Record<string, string> = { "x-answers": String(ANSWERS) }) =>
  vi.stubGlobal("fetch", () => Promise.resolve(new Response(status === 204 ? null : body, { status, headers })));

afterEach(() => vi.unstubAllGlobals());

test("an answer that can be read is handed on", async () => {
  answering(JSON.stringify({ folder: "/data", backup: null }));
  expect(await api.where()).toEqual({ folder: "/data", backup: null });
});

test("what is no JSON is an error with its address, not nothing", async () => {
  answering("<html>a proxy of somebody's</html>");
  await expect(api.where()).rejects.toMatchObject({
    code: "no-json",
    message: "the answer of the server to /api/where cannot be read",
  });
  answering("");
  await expect(api.benches.page("kick")).rejects.toMatchObject({
    code: "no-json",
    message: "the answer of the server to /api/benches cannot be read",
  });
});

test("an answer of a server of another version is said to be one", async () => {
  answering("{}", 200, { "x-answers": String(ANSWERS + 1) });
  await expect(api.where()).rejects.toMatchObject({ code: "version" });
  answering("{}", 200, {});
  await expect(api.where()).rejects.toMatchObject({ code: "version" });
});

test("an answer without content is one", async () => {
  answering("", 204);
  expect(await api.removeTrack({ hash: "00" } as Parameters<typeof api.removeTrack>[0])).toBeUndefined();
});

test("errors are handed on as the server says them, or with their status", async () => {
  answering(JSON.stringify({ error: { code: "stale", message: "it has been saved since" } }), 409, {});
  await expect(api.where()).rejects.toMatchObject({ code: "stale", message: "it has been saved since" });
  answering("Bad Gateway", 502, {});
  await expect(api.where()).rejects.toMatchObject({ code: "unknown", message: "the server answered with status 502" });
  vi.stubGlobal("fetch", () => Promise.reject(new TypeError("refused")));
  await expect(api.where()).rejects.toMatchObject({ code: "away", message: "the server does not answer" });
});
