import { defineConfig } from "vitest/config";

/** Unit tests stand beside what they test. They run in Node, with the core itself where it is asked. */
export default defineConfig({
  test: {
    include: ["src/**/*.test.ts"],
    environment: "node",
    // Properties take a while on a machine that does something else as well.
    testTimeout: 60_000,
    // Names of styles as they are written.
    css: { modules: { classNameStrategy: "non-scoped" } },
  },
});
