/** What stands in the mail by which somebody enters. */

export const invitationLetter = (p: { workspace: string; by: string; url: string }) => ({
  subject: `${p.by} invites you to ${p.workspace}`,
  text: `${p.by} invites you to ${p.workspace} on Amber Loom, where the team’s tasks and calendars are seen together.

Accept here, within seven days:
${p.url}

If you do not know ${p.by}, do nothing: without this address nobody gets in.
`,
})

export const resetLetter = (p: { url: string }) => ({
  subject: 'A new password for Amber Loom',
  text: `Somebody, most likely you, asked for a new password for this mail address.

Choose it here, within an hour:
${p.url}

If it was not you, do nothing. Your password stays as it is.
`,
})
