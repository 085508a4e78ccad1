import { Hash } from '@adonisjs/hash'
import { Scrypt } from '@adonisjs/hash/drivers/scrypt'
import * as z from 'zod'

const hash = new Hash(new Scrypt({}))

/** A password as it is kept: scrypt with a salt of its own, in the PHC string format. */
export const hashPassword = (password: string): Promise<string> => hash.make(password)

/** Whether a password is the one that was kept. */
export const verifyPassword = (kept: string, password: string): Promise<boolean> =>
  hash.verify(kept, password).catch(() => false)

export const passwordSchema = z
  .string()
  .min(10, 'a password has at least 10 characters')
  .max(200, 'a password has at most 200 characters')
export const userNameSchema = z
  .string()
  .trim()
  .regex(/^[\p{L}\p{N}][\p{L}\p{N} ._-]{0,59}$/u, 'a name has letters, digits, spaces, dots and dashes, 60 at most')

/** Fewer tries than this are too few to guess a password: what a thousand machines try in a day against scrypt. */
const FEWEST_GUESSES = 1e8

/** Why a password is none for a user: it is the name, or among those that are tried first. */
export async function weakness(password: string, name: string): Promise<string | undefined> {
  // Lists of words: they are read when somebody chooses a password, not when a server starts.
  const { guesses } = await import('./guessing')
  const tries = guesses(password.slice(0, 100), name)
  if (tries >= FEWEST_GUESSES) return undefined
  return 'This password is guessed too easily; take several words that do not belong together.'
}
