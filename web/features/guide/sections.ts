import { marked } from 'marked';
import guide from '../../../docs/guide.md?raw';

/** A chapter of the guide. */
export interface Section {
  title: string;
  /** HTML, made of the guide that ships: nothing in it comes from people */
  html: string;
  /** its words in small letters, for searching */
  text: string;
}

// in the program there are no other documents to follow a link to
marked.use({
  renderer: {
    link({ tokens }) {
      return this.parser.parseInline(tokens);
    },
  },
});

/** The chapters of the guide, in their order. */
export const SECTIONS: Section[] = guide
  .split(/^## /m)
  .slice(1)
  .map((part) => {
    const end = part.indexOf('\n');
    const body = part.slice(end + 1);
    return {
      title: part.slice(0, end).trim(),
      html: marked.parse(body, { async: false }),
      text: part.toLowerCase(),
    };
  });

/** The chapters that have all words of what is typed: those that have it in their title first. */
export function sectionsWith(typed: string): Section[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = SECTIONS.filter((s) => words.every((w) => s.text.includes(w)));
  const inTitle = (s: Section) => words.some((w) => s.title.toLowerCase().includes(w));
  return words.length ? [...hits.filter(inTitle), ...hits.filter((s) => !inTitle(s))] : hits;
}
