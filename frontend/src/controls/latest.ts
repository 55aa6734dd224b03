/** One question at a time; of those that come meanwhile only the newest is asked next. What fails is left unanswered. */
export function latest<Q, A>(ask: (question: Q) => Promise<A>, answer: (question: Q, answer: A) => void) {
  let waiting: { question: Q } | null = null;
  let asking = false;
  const go = async (question: Q): Promise<void> => {
    asking = true;
    try {
      answer(question, await ask(question));
    } catch {
      // The next one may be answered.
    }
    asking = false;
    const next = waiting;
    waiting = null;
    if (next) void go(next.question);
  };
  return (question: Q) => {
    if (asking) waiting = { question };
    else void go(question);
  };
}
