declare module "rtf-parser" {
  interface RtfDocument {
    content: { content?: { value?: string }[] }[];
  }
  const parse: {
    string(text: string, done: (error: Error | null, document?: RtfDocument) => void): void;
  };
  export default parse;
}
