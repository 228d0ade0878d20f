package demo

// All texts are invented for the demo.

const coastalNarratives = `Coastal Narratives, chapter 4: Weather as a household

The writers of this coast seldom show us a wreck. The narrator does not describe the storm itself, only the preparations for it, so that we experience danger as a series of small domestic decisions: a rope, a lamp, a locked door. Whoever reads for the waves will be disappointed, and whoever reads for the kitchen will learn more about the waves than any painter could tell. Fear is kept in the cupboards and is taken out one shelf at a time.

It has often been remarked that the harbours in these stories have no names. A named harbour would belong to somebody; an unnamed one belongs to whoever waits there. The pilots keep their accounts in their heads and the widows keep theirs in chalk, and both are wiped out by the same rain. Nothing happens twice, but everything is done again, and the doing again is what the coast calls time.

What remains of a decision when its reason is forgotten is habit, and the stories are built from such remains. A door is locked because it was locked; a lamp is lit because it was lit. The reader who asks why has already left the village.`

const vazPilot = `The Pilot's Year (1931)

“The sea keeps no books,” the old pilot says, “and so we must.” He entered each boat twice, once leaving and once returning, and the page with only one entry he never turned. In winter the light of the harbour mouth was kept by whoever could not sleep, which in that winter was everybody. He held that a chart is a promise made by someone who is not on board.`

var racconto = []string{
	"Racconto breve: a commentary",
	"The harbour of the story has no name, and that is its first trick. “The sea keeps no books,” the old pilot says (Vaz, 1931, p. 12), and the reader is left to count the ships alone. What looks like idleness in the opening scene turns out to be a kind of book-keeping after all: each boat is watched out of sight, and for each of them somebody stays on the wall longer than the weather allows.",
	"The narrator does not describe the storm itself but only the preparations for it, so that we experience the danger as a series of small domestic decisions. A rope is moved indoors. The bread is baked a day early. By the time the wind arrives, the house has already answered it, and the story can afford to leave the night out altogether.",
	"In the second half this changes. The lamp, which was only a lamp, becomes the one thing that every character has touched. Nothing happens twice, but everything is done again, as the pilot puts it near the end, and one begins to see that the repetitions are the plot.",
	"A named harbour would belong to somebody; an unnamed one belongs to whoever waits there. I read the missing name as an invitation, and the ending takes the invitation back: the last page is the only one in the present tense, and the only one in which nobody speaks.",
	"When I first read it I took the locked door for a sign of fear. I now think it is a sign of habit: the door is locked because it was locked yesterday. The difference matters, since fear would end with the storm and habit does not.",
	"# Bibliography",
	"Vaz, I. (1931). The Pilot's Year. Alvarim: Harbour Press.",
	"Coastal Narratives. Reader of the course Italian Composition, Alvarim Institute of Sea and Land.",
}

var lettera = []string{
	"Lettera formale",
	"Dear harbour office, I write to ask for permission to use the tide gauge at the north mole on four days in December. I study at the Alvarim Institute of Sea and Land and have been given the task of comparing printed predictions with what the water does.",
	"I would come at low water, bring my own lamp, and leave the steps as I found them. Should the gauge be needed by the pilots, I would of course wait. My instructor, whose address stands below, has agreed to answer questions about the purpose of the visit.",
	"I remain, with thanks for your trouble, a careful reader of your notices. The enclosed sheet names the hours that I ask for and the instrument that I would use; it has been calibrated against the gauge of the institute in October.",
}

var tideReport = []string{
	"Lab 4: Tide tables against the gauge",
	"# Purpose",
	"The aim was to compare the printed predictions for the north mole with four days of hourly readings, and to say whether the differences are those of the weather or those of the table.",
	"# Method",
	"Heights were read from the staff every hour on the hour. Readings taken by lamp were repeated. The predictions were computed from the two largest constituents only, which leaves out the shallow-water terms that are known to matter at the inner quay.",
	"[+ The staff was levelled against the bench mark on the first morning and again on the last.]",
	"A staff that is read by eye has an error of its own, which grows with the swell and with the patience of whoever reads it; half of the swell's height is a fair guess on an open mole.",
	"# Result",
	"The differences have a mean below one centimetre and a spread of about four centimetres. They follow no tide. They are larger in the two nights with wind from the south-west, when the water stood higher than predicted at both high waters.",
	"# Discussion",
	"A spread of four centimetres is smaller than what the table itself claims to be good for. The two windy nights suggest that pressure and wind, not the constituents, make the rest. A longer series would have to show whether the mean stays where it is.",
	"[+ No reading was left out.]",
}

const gaugeReader = `Gauges and Benches, notes for the second year

A staff that is read by eye has an error of its own, which grows with the swell and with the patience of whoever reads it; half of the swell's height is a fair guess on an open mole. Whoever reads at night should read twice and keep both.

The bench mark is levelled before and after, never only once, since a staff that has been struck by a boat stands as straight as one that has not.
`

var transect = []string{
	"Transect data: dune to marsh",
	"The transect runs for sixty metres from the crest of the dune to the first channel of the marsh. Cover was estimated in thirty squares of one metre each, two observers to a square, and the mean entered.",
	"Marram gives way to sea couch at eighteen metres, within two squares, which is sharper than the handbook leads one to expect. The cause is probably the path, which crosses at seventeen metres and is trodden by sheep.",
	"Glasswort begins at forty-one metres. Its cover rises steadily to the channel, where it stands alone. No square held more than nine kinds, and the squares on the path held three.",
}
