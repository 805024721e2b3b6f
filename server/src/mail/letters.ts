interface Letter {
  subject: string
  text: string
}

const lines = (...all: string[]) => `${all.join('\n\n')}\n`

/** Asks somebody in. @param who asks */
export const invitationLetter = (who: string, link: string): Letter => ({
  subject: 'You are asked in at Tin Harbor',
  text: lines(`${who} asks you in at Tin Harbor.`, `This link is good once, for seven days:\n${link}`)
})

/** Lets somebody set a password that they forgot. */
export const passwordLetter = (email: string, link: string): Letter => ({
  subject: 'A new password at Tin Harbor',
  text: lines(
    `Somebody asked for a new password of ${email} at Tin Harbor.`,
    `This link is good once, for an hour:\n${link}`,
    'If it was not you, nothing changes.'
  )
})
