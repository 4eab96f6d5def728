const path = require('node:path');
const { getDefaultConfig } = require('expo/metro-config');

const root = path.resolve(__dirname, '../..');
const config = getDefaultConfig(__dirname);

/** Parts of packages that nothing here uses, and that come along because their index names them. */
const UNUSED = [
  // Its messages in forty languages (ours are written where they arise), JSON Schema both ways, a compiler.
  /[\\/]zod[\\/]v4[\\/]locales[\\/]index\.(js|cjs)$/,
  /[\\/]zod[\\/]v4[\\/]core[\\/](json-schema-(processors|generator)|to-json-schema|compile)\.(js|cjs)$/,
  /[\\/]zod[\\/]v4[\\/]classic[\\/]from-json-schema\.(js|cjs)$/,
  // Stacks, tabs and their headers: our frame is `Slot` with a shell of our own around it.
  /[\\/]expo-router[\\/]build[\\/]layouts[\\/](JSStack|BaseStack|Tabs|TabsClient)\.js$/,
  /[\\/]expo-router[\\/]build[\\/](stack|native-tabs|layouts[\\/]stack-utils)[\\/]index\.js$/,
  /[\\/]expo-router[\\/]build[\\/]react-navigation[\\/](bottom-tabs|native-stack)[\\/]index\.js$/,
  /[\\/]expo-router[\\/]build[\\/]views[\\/]Sitemap\.js$/,
  // Lists that draw what is in sight, and controls of the browser's own.
  /[\\/]react-native-web[\\/]dist[\\/]exports[\\/](FlatList|SectionList|VirtualizedList|Switch|CheckBox)[\\/]index\.js$/,
];
// React Native Elements mixes its colours with an older copy of what the navigation has already.
const COLOR = require.resolve('color', { paths: [require.resolve('expo-router/package.json')] });
const ORDINARY = config.resolver.resolveRequest;

config.watchFolders = [root];
config.resolver.nodeModulesPaths = [path.join(__dirname, 'node_modules'), path.join(root, 'node_modules')];
config.resolver.resolveRequest = (context, name, platform) => {
  // React Native Elements asks for nineteen icon fonts; none is used.
  if (/^@?react-native-vector-icons\//.test(name) && /@rneui[\\/]base/.test(context.originModulePath))
    throw new Error(`${name} is left out`);
  if (name === 'color' && /@rneui[\\/]/.test(context.originModulePath))
    return { type: 'sourceFile', filePath: COLOR };
  const resolved = (ORDINARY ?? context.resolveRequest)(context, name, platform);
  if (resolved.type === 'sourceFile' && UNUSED.some((part) => part.test(resolved.filePath)))
    return { type: 'empty' };
  return resolved;
};

/** In development the API, webhooks and schemas come from the server that `./dartloop dev` has started. */
config.server = {
  ...config.server,
  enhanceMiddleware: (metro) => {
    const backend = process.env.DARTLOOP_BACKEND;
    if (!backend) return metro;
    const { request } = require('node:http');
    return (incoming, outgoing, next) => {
      if (!/^\/(api|hooks|w|schemas|healthz)(\/|$)/.test(incoming.url))
        return metro(incoming, outgoing, next);
      const onward = request(
        backend + incoming.url,
        { method: incoming.method, headers: incoming.headers },
        (answer) => {
          outgoing.writeHead(answer.statusCode, answer.headers);
          answer.pipe(outgoing);
        },
      );
      onward.on('error', () => outgoing.writeHead(502).end('The server is not there (yet).'));
      incoming.pipe(onward);
    };
  },
};

module.exports = config;
