// Before every test: the browser's fetch as the pages have it, with addresses that begin at the page, answered by the test's table.
const own = globalThis.Request;
globalThis.Request = class extends own {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === 'string' ? new URL(input, 'http://page.test') : input, init);
  }
};

type Answer = (request: Request) => Promise<Response>;
let answer: Answer = (request) => Promise.reject(new Error(`nothing answers ${request.method} ${request.url}`));
export const answerWith = (a: Answer) => {
  answer = a;
};
globalThis.fetch = (input, init) => answer(input instanceof own ? input : new Request(input, init));
