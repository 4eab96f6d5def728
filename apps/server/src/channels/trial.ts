import type { ChannelKind } from '@dart-loop/core';
import type { Adapter, Failure } from './adapter';

const OFF: Failure = {
  code: 'test phone off',
  reason: 'This is a line for trying out, and the test phone is off.',
  remedy: 'Set DARTLOOP_TEST_PHONE=yes and start the server again, or disconnect the line.',
};

/**
 * The adapters of lines for trying out where the test phone is off: they reach nobody, least of all the
 * platforms. What such a line was to send waits.
 */
export function switchedOff(adapters: Record<ChannelKind, Adapter>): Record<ChannelKind, Adapter> {
  return Object.fromEntries(
    Object.entries(adapters).map(([channel, adapter]) => [channel, off(adapter)]),
  ) as Record<ChannelKind, Adapter>;
}

function off(adapter: Adapter): Adapter {
  // Named one by one, so that nothing that would ask a platform is taken over unseen.
  const { kind, accountKey, rate, rateOf, dropsRepeats, verify, read, typedOf } = adapter;
  return {
    kind,
    accountKey,
    rate,
    rateOf,
    dropsRepeats,
    verify,
    read,
    typedOf,
    send: async () => ({ kind: 'again', holds: 'line', afterMs: null, failure: OFF, lineFails: true }),
    accountOf: async () => null,
    connect: async () => ({ ok: false, field: 'channel', failure: OFF }),
    test: async () => OFF,
    ...(adapter.lookAtMenus && { lookAtMenus: async () => ({ failure: OFF }), putMenus: async () => OFF }),
    disconnect: async () => undefined,
  };
}
