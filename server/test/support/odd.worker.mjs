import { serve } from '../../dist/threads/serve.js'
import { ToldError } from '../../dist/threads/thread-errors.js'

/** A thread that ends in every way there is, as it is asked. */
let greeted = 0
serve(
  {
    add: ({ a, b }) => a + b,
    later: ({ milliseconds }, { tell }) => {
      tell(milliseconds)
      return new Promise((resolve) => setTimeout(() => resolve(greeted), milliseconds))
    },
    throw: ({ told }) => {
      throw new (told ? ToldError : Error)('It went wrong.', { cause: new RangeError('Too far.') })
    },
    reject: () => Promise.reject(new TypeError('Not this.')),
    untilCancelled: (_, { cancelled }) => {
      while (!cancelled());
      throw new Error('Cancelled.')
    },
    exit: ({ code }) => process.exit(code),
    throwLater: () =>
      new Promise(() => {
        setTimeout(() => {
          throw new Error('Thrown outside of any request.')
        })
      }),
    rejectLater: () => {
      void Promise.reject(new Error('Rejected outside of any request.'))
      return new Promise(() => undefined)
    },
    function: () => () => undefined
  },
  {
    greeting: (n) => (greeted += n),
    bad: () => {
      throw new Error('A notice that cannot be heard.')
    }
  }
)
