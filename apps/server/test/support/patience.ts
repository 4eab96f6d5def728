/** Real databases and real HTTP on a shared machine: a bound, not an expectation. */
jest.setTimeout(120_000);
