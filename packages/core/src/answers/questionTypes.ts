/** What kind of thing is asked for, and what a text has to hold that can answer it. */
interface QuestionType {
  asks: RegExp;
  holds: RegExp;
}

const NUMBER = String.raw`(?:\d+|one|two|three|four|five|six|seven|eight|nine|ten|fifteen|twenty|thirty|ninety|half)`;
const DAYS = 'monday|tuesday|wednesday|thursday|friday|saturday|sunday|weekday|weekend|every day|daily';
const MONTHS =
  'january|february|march|april|june|july|august|september|october|november|december|christmas|summer|winter';

const TYPES: Record<'price' | 'time' | 'duration' | 'where' | 'pay', QuestionType> = {
  price: {
    asks: /\b(how much (?!time|longer)|price|prices|cost|costs|fee|fees|charge|rate|cheaper|discount|expensive)\b/,
    holds: /[£€$]\s?\d|\d\s?(?:pounds?|euros?|pence|%)|\bfree\b|\bnothing\b/i,
  },
  time: {
    asks: /\b(when|what time|what day|which day|until when|opening|open|close|closed|closing|last|first|next)\b/,
    holds: new RegExp(String.raw`\d{1,2}[:.]\d\d|\b\d{1,2}\s?(?:am|pm)\b|\b(?:${DAYS}|${MONTHS})`, 'i'),
  },
  duration: {
    asks: /\b(how long|how many (?:hours|minutes|days|weeks)|how early|how often)\b/,
    holds: new RegExp(
      String.raw`\b${NUMBER}\b[\w\s-]{0,12}\b(?:minutes?|hours?|days?|weeks?|months?|years?)\b`,
      'i',
    ),
  },
  where: {
    asks: /\b(where|address|directions|find you|get to you|get there|located|parking)\b/,
    holds: /\b(?:street|lane|road|square|station|bus|floor|behind|next to|opposite|desk|counter)\b/i,
  },
  pay: {
    asks: /\b(pay (?:by|with|in|cash)|can i pay|do you take|cash|cards?|contactless|cheque|apple pay)\b/,
    holds: /\b(cards?|cash|cheques?|bill|invoice|transfer|parts)\b/i,
  },
};

/** How much of what is asked for a text may hold: 1 all, 0 none; null where nothing of the kind is asked. */
export function typeFit(question: string, text: string): number | null {
  const asked = Object.values(TYPES).filter(({ asks }) => asks.test(question));
  if (asked.length === 0) return null;
  return asked.filter(({ holds }) => holds.test(text)).length / asked.length;
}
