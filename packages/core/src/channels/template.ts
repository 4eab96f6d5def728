/**
 * A message that the channel has approved beforehand and that may go where the window is shut. `body` has
 * {{1}}, {{2}} for its parameters.
 */
export interface Template {
  name: string;
  language: string;
  status: 'approved' | 'pending' | 'rejected' | 'paused';
  category: string;
  body: string;
  /** How many parameters the body takes. */
  parameters: number;
  /** Labels of its quick-reply buttons. */
  buttons: string[];
  /** What stands above its text, where that is a file which each sending names. */
  header?: TemplateHeader;
}

export type TemplateHeader = 'image' | 'video' | 'file';

/** A template with what is put into it, as a step asks for it. */
export interface TemplateCall {
  name: string;
  parameters: string[];
  /** The address of the file above its text, where it has one. */
  file?: string;
}
