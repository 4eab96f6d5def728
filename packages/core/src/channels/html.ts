/** A text as it may stand in HTML or SVG: what would be markup is a number. */
export const inHtml = (text: string): string => text.replace(/[<>&"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
