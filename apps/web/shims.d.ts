declare module '*.ttf';
declare function require(path: string): number;
