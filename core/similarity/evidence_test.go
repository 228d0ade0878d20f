package similarity

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const (
	keeper = "The keeper counted forty lanterns along the breakwater before supper and wrote each number down twice."
	gale   = "During the equinoctial gale nobody slept, for the shutters banged and the cistern overflowed onto the stairs."
	mine   = "All of this I only know from hearing it told by others on quiet evenings, and I can not vouch for it. "
)

func counted(r Report) (list []Passage) {
	for _, p := range r.Passages {
		if p.Excluded == "" {
			list = append(list, p)
		}
	}
	return list
}

func words(document string, p Passage) string { return string([]rune(document)[p.Start:p.End]) }

func TestStockPhrasesAreNotEvidence(t *testing.T) {
	x := NewIndex(
		[]Source{{Name: "s", Text: "It will be found in the report of the committee that on the other hand, and in " +
			"the course of time, as has been said before, it was not so at all."}},
	)
	for _, phrase := range []string{
		"that will be found in the report of the", "and on the other hand, and in the course of time",
		"which, as has been said before, it was not",
	} {
		assert.Empty(t, x.Check(mine+phrase+" rest. "+mine, Options{MinWords: 5}).Passages, phrase)
	}
	stock := "and it would have been in the middle of the other side of it, as soon as he could have been one of them, in order to be able to do it"
	x = NewIndex([]Source{{Name: "s", Text: mine + gale + " " + stock + " and so on."}})
	assert.Empty(t, x.Check("Who knows? "+stock+", says my aunt.", Options{MinWords: 8}).Passages, "thirty words that everybody says")
	assert.Len(t, x.Check("Who knows? "+gale, Options{MinWords: 8}).Passages, 1)
}

func TestPiecesThatLieTogetherAreOnePassage(t *testing.T) {
	x := NewIndex([]Source{{Name: "s", Text: mine + keeper + " " + gale + " " + mine}})
	swapped := "Once more. " + gale + " And before that came this. " + keeper + " Enough."
	r := x.Check(swapped, Options{MinWords: 8})
	require.Len(t, r.Passages, 1, "whichever comes first there")
	assert.True(t, strings.HasPrefix(words(swapped, r.Passages[0]), "During the"))
	far := gale + " " + strings.Repeat("Entirely different matter follows here, composed afresh. ", 12) + keeper
	assert.Len(t, x.Check(far, Options{MinWords: 8}).Passages, 2)
}

// What was reworded heavily agrees here and there: pieces of one source in the same order, with nothing of another between.
func TestPiecesOfOneRewordingAreOnePassage(t *testing.T) {
	first := gale + " Water stood in the lower hall until the carpenter drilled three holes through the floor of it."
	last := keeper + " He never told the inspector that two of them had been broken since the winter before last."
	theirs := strings.Repeat("In between the author describes, at great length, ropes and tar and the price of bread. ", 3)
	own := strings.Repeat("My version mentions instead fishermen who argued about nets, sails or taxes all week. ", 3)
	x := NewIndex([]Source{{Name: "s", Text: mine + first + " " + theirs + last + " " + mine}, {Name: "t", Text: theirs + own}})
	x1 := NewIndex([]Source{{Name: "s", Text: mine + first + " " + theirs + last + " " + mine}})
	doc := "Once upon a time. " + first + " " + own + last + " So it ends."
	assert.Len(t, x1.Check(doc, Options{MinWords: 8}).Passages, 1, "one passage, reworded in its middle")
	of := 0
	for _, p := range x.Check(doc, Options{MinWords: 8}).Passages {
		if p.Source == "s" {
			of++
		}
	}
	assert.Equal(t, 2, of, "where another source lies between them they are two")
	turned := "Once upon a time. " + last + " " + own + first + " So it ends."
	assert.Len(t, x1.Check(turned, Options{MinWords: 8}).Passages, 2, "in another order they are two")
}

func TestAWordingThatManySourcesShareIsCommon(t *testing.T) {
	var sources []Source
	for n := range 40 {
		sources = append(sources, Source{Name: fmt.Sprint(n), Text: fmt.Sprintf("Report %d. ", n) + keeper + mine})
	}
	document := "I say. " + keeper + " So there."
	r := NewIndex(sources).Check(document, Options{MinWords: 8})
	require.NotEmpty(t, r.Passages)
	for _, p := range r.Passages {
		assert.Equal(t, "common", p.Excluded)
	}
	assert.Zero(t, r.Share)
	r = NewIndex(sources[:3]).Check(document, Options{MinWords: 8})
	assert.Len(t, counted(r), 3, "three are not many")
}

func TestAPassageIsSplitAtQuotationMarks(t *testing.T) {
	x := NewIndex([]Source{{Name: "s", Text: mine + keeper + " " + gale + " " + mine}})
	document := "She puts it like this (Vaz, 1931): “" + keeper + "” " + gale + " So it was."
	r := x.Check(document, Options{MinWords: 8})
	require.Len(t, r.Passages, 2)
	assert.Equal(t, "quotation", r.Passages[0].Excluded)
	assert.Equal(t, strings.TrimSuffix(keeper, "."), words(document, r.Passages[0]))
	assert.Empty(t, r.Passages[1].Excluded)
	assert.Equal(t, strings.TrimSuffix(gale, "."), words(document, r.Passages[1]))

	// Marks that the source has at the same place were borrowed with its words.
	said := "The pilot called out, “" + keeper + "” and " + strings.ToLower(gale[:1]) + gale[1:]
	x = NewIndex([]Source{{Name: "s", Text: mine + said + " " + mine}})
	assert.Len(t, x.Check("Well. "+said+" So it was.", Options{MinWords: 8}).Passages, 1)
}

func TestOneStretchIsShownOnce(t *testing.T) {
	x := NewIndex([]Source{
		{
			Name: "a",
			Text: mine + keeper,
		},
		{Name: "b", Text: keeper + " " + gale + " " + mine},
		{Name: "own", Text: keeper, Kind: Own},
	})
	r := x.Check("Well. "+keeper+" "+gale+" So it was.", Options{MinWords: 8})
	require.Len(t, r.Passages, 3)
	list := r.Stretches()
	require.Len(t, list, 1)
	assert.Equal(t, "b", r.Passages[list[0].Best].Source, "the longest of what counts")
	assert.Len(t, list[0].Also, 2)
	shares := r.ByRemedy()
	require.Len(t, shares, 1, "%+v", shares)
	assert.Equal(t, Rewrite, shares[0].Remedy)
	assert.InDelta(t, r.Share, shares[0].Share, 1e-9, "what three sources have counts once")
}

// Quoted and named comes before one's own, whichever source is looked at first.
func TestWhatIsQuotedAndNamedIsNotOnesOwn(t *testing.T) {
	x := NewIndex([]Source{{Name: "s", Text: mine + keeper, Kind: Other}, {Name: "own", Text: keeper, Kind: Own}})
	r := x.Check("She notes “"+keeper+"” (Vaz, 1931, p. 12). So it was.", Options{MinWords: 8})
	require.Len(t, r.Passages, 2)
	for _, p := range r.Passages {
		assert.Equal(t, "quotation", p.Excluded, p.Source)
	}
}

// Words that the source says elsewhere do not pull a passage's beginning away from where the borrowing begins.
func TestAPassageBeginsWhereTheBorrowingDoes(t *testing.T) {
	source := "A staff that is read by eye has an error of its own, which grows with the swell and with the patience of " +
		"whoever reads it; half of the swell's height is a fair guess on an open mole. Whoever reads at night should read " +
		"twice. The bench mark is levelled before and after."
	borrowed := "A staff that is read by eye has an error of its own, which grows with the swell and with the patience of " +
		"whoever reads it; half of the swell's height is a fair guess on an open mole"
	document := "Ours was levelled against the bench mark on the first morning and again on the last. " + borrowed + ". So we did."
	r := NewIndex([]Source{{Name: "a", Text: source}}).Check(document, Options{})
	require.Len(t, r.Passages, 1)
	start, end := at(document, borrowed)
	assert.Equal(t, [2]int{start, end}, [2]int{r.Passages[0].Start, r.Passages[0].End})
	assert.Equal(t, 1.0, r.Passages[0].Exact)
}
