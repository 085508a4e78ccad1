import { ZxcvbnFactory } from '@zxcvbn-ts/core'
import { adjacencyGraphs as graphs, dictionary } from '@zxcvbn-ts/language-common'

const guesser = new ZxcvbnFactory({ dictionary, graphs })

/** How many tries it takes to guess a password, knowing lists of common ones and the name of its user. */
export const guesses = (password: string, name: string): number =>
  guesser.check(password, ['ubblet', name, ...name.split(/[ ._-]+/)]).guesses
