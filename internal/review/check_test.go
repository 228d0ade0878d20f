package review_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"orario/core/similarity"
	api "orario/internal/campus/campusapi"
	"orario/internal/refusal"
	"orario/internal/review"
	"orario/internal/worldtest"
)

// Sentences of the demo's making, each long enough to be evidence.
const (
	sounding = "Every sounding that the leadsman called was pencilled on the margin of the draught before the boat had moved another length along the reef."
	lantern  = "A lantern hung in the mizzen rigging shows the following vessels where the channel bends towards the customs house and the old quarry."
	saying   = "Nobody who has slept above the engine room of a dredger believes again that harbours are quiet places after midnight."
)

func passageWith(t *testing.T, r *review.Reading, match string) review.Passage {
	t.Helper()
	for _, p := range r.Passages {
		if strings.Contains(p.Match, match) {
			return p
		}
	}
	require.Fail(t, "no passage", "with %q among %+v", match, r.Passages)
	return review.Passage{}
}

func TestAPaperIsCheckedBeforeItIsSent(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	require.NoError(t, w.Campus.PublishReading(ctx, "reader", "The reader", reader))
	earlier := worldtest.Essay()
	earlier.Key, earlier.Title = "e1", "Essay 1, Harbours"
	w.Add(w.Publish(earlier), "Quintal_HYD214_essay-1-harbours.txt", []byte("My first essay. "+saying))
	w.Send(w.Publish(earlier))
	essay := worldtest.Essay()
	id := w.Publish(essay)

	assert.ErrorContains(t, w.Review.CheckOwn(ctx, w.Student, id, 0), "The bundle is empty")
	w.Add(
		id,
		name,
		[]byte(
			"I begin with a thought of mine about boats. “"+saying+"” (Quintal, 2025). That was then, and I think otherwise "+
				"today, which took two winters by the water to learn. "+sounding+" "+lantern+
				" "+reader+" What follows is mine again, and so is the end of it.",
		),
	)
	page := "<html><head><title>Hidden</title><style>p{}</style></head><body><p>" + sounding + "</p><script>var x</script>" +
		"</body></html>"
	for _, source := range []string{"Pilot notes.html", "The same again.html", "Once more.html"} {
		require.NoError(t, w.Review.AddSource(ctx, w.Student, id, w.Upload(source, []byte(page)), false))
	}
	require.NoError(t, w.Review.AddSource(ctx, w.Student, id, w.Upload("Lights.txt", []byte(lantern)), true))
	require.NoError(t, w.Review.CheckOwn(ctx, w.Student, id, 0))
	r, err := w.Review.ReadOwn(ctx, w.Student, id, 0)
	require.NoError(t, err)

	stretch := passageWith(t, r, "Every sounding")
	assert.Len(t, stretch.Also, 2, "one stretch, three sources")
	assert.Equal(t, similarity.Rewrite, stretch.Remedy)
	quoted := passageWith(t, r, "slept above the engine room")
	assert.Equal(t, similarity.Leave, quoted.Remedy, "quoted and named, though it is of one's own earlier paper")
	assert.Contains(t, quoted.SourceTitle, "Essay 1, Harbours")
	passageWith(t, r, "lantern hung")
	assert.NotContains(t, r.Passages, reader, "what only the site has cannot be found")
	assert.Equal(t, 2, r.Counting, "the two that are neither quoted nor given")
	assert.Regexp(t, `^2 passages need a decision, [1-9]\d? % of the text$`, r.Summary)
	assert.True(t, r.Own)
	assert.False(t, r.Stale)
	assert.Contains(t, r.Doubt, "The course site's collection is larger")
	assert.Equal(t, "1 earlier file of yours, 4 added sources, the instructions", r.Compared)

	require.NoError(t, w.Review.HandleOwn(ctx, w.Student, id, 0, stretch.N, "fixed"))
	assert.ErrorContains(t, w.Review.HandleOwn(ctx, w.Student, id, 0, 99, "fixed"), "no such passage")
	r, err = w.Review.ReadOwn(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Equal(t, "fixed", passageWith(t, r, "Every sounding").Handled)

	t.Run("the site's report says what was foreseen", func(t *testing.T) {
		sub := w.Send(id)
		_, err := w.Review.FetchReport(ctx, job(w, sub))
		require.NoError(t, err)
		report, err := w.Review.Read(ctx, w.Student, sub.ID)
		require.NoError(t, err)
		fresh := passageWith(t, report, "lowest water")
		require.NotNil(t, fresh.Foreseen)
		assert.False(t, *fresh.Foreseen)
		assert.Equal(t, "Your own check had found 0 of the 1 that count.", report.Foreseen)
	})
	t.Run("a source of the course serves its other work", func(t *testing.T) {
		other := worldtest.Essay()
		other.Key, other.Title = "e3", "Essay 3, Lights"
		list, err := w.Review.Sources(ctx, w.Student, w.Publish(other))
		require.NoError(t, err)
		require.Len(t, list, 1)
		assert.Equal(t, "Lights.txt", list[0].Name)
		require.NoError(t, w.Review.RemoveSource(ctx, w.Student, list[0].ID))
		assert.ErrorIs(t, w.Review.RemoveSource(ctx, w.Student, list[0].ID), refusal.ErrNotFound)
	})
}

func TestWhatCannotBeCheckedIsSaid(t *testing.T) {
	w := worldtest.New(t)
	ctx := context.Background()
	bare := worldtest.Essay()
	bare.Instructions, bare.Handouts = "", []api.Handout{}
	id := w.Publish(bare)
	item := w.Add(id, "tides.csv", []byte("a,b\n1,2\n"))
	assert.ErrorContains(t, w.Review.CheckOwn(ctx, w.Student, id, 0), "There is no text in the bundle")
	require.NoError(t, w.Prepare.Remove(ctx, w.Student, item))
	w.Add(id, name, []byte(sounding))
	assert.ErrorContains(t, w.Review.CheckOwn(ctx, w.Student, id, 0), "Add a source first")
	none, err := w.Review.ReadOwn(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.Nil(t, none, "that it was never checked is an answer")
	_, err = w.Review.ReadOwn(ctx, w.Student, id+1000, 0)
	assert.ErrorIs(t, err, refusal.ErrNotFound)

	require.NoError(t, w.Review.AddSource(ctx, w.Student, id, w.Upload("photo.bin", []byte{0, 1, 2}), false))
	list, err := w.Review.Sources(ctx, w.Student, id)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Contains(t, list[0].Trouble, "No text can be read in it")
	require.NoError(t, w.Review.AddSource(ctx, w.Student, id, w.Upload("a.txt", []byte(sounding)), false))
	require.NoError(t, w.Review.CheckOwn(ctx, w.Student, id, 0))

	other, _ := w.AddStudent("20419", "rui@alvarim.example")
	for what, err := range map[string]error{
		"check":  w.Review.CheckOwn(ctx, other, id, 0),
		"handle": w.Review.HandleOwn(ctx, other, id, 0, 0, "fixed"),
		"add":    w.Review.AddSource(ctx, other, id, w.Upload("b.txt", []byte(sounding)), false),
		"remove": w.Review.RemoveSource(ctx, other, list[0].ID),
	} {
		assert.ErrorIs(t, err, refusal.ErrNotFound, what)
	}
	w.Add(id, "second.txt", []byte(lantern))
	r, err := w.Review.ReadOwn(ctx, w.Student, id, 0)
	require.NoError(t, err)
	assert.True(t, r.Stale, "the bundle has changed since")
}
