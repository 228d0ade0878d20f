// What stands around a test in place of a browser: addresses without a host are Orario's own, and the network is
// what a test says.
const RealRequest = globalThis.Request;
globalThis.Request = class extends RealRequest {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(
      typeof input === "string" ? new URL(input, "http://orario.example") : input,
      init as undefined,
    );
  }
};

type Answering = (request: Request) => Promise<Response>;
const nobody: Answering = () => Promise.reject(new Error("this test asks no server"));
export const network: { answer: Answering } = { answer: nobody };
globalThis.fetch = ((request: Request) => network.answer(request)) as typeof fetch;
