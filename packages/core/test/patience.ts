/** Many cases on a shared machine: a bound, not an expectation. */
jest.setTimeout(60_000);
