import { configure } from '@testing-library/react-native';

/** What a screen shows after a while is waited for on a busy machine too: a bound, not an expectation. */
configure({ asyncUtilTimeout: 20_000 });
jest.setTimeout(60_000);
