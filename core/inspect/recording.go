package inspect

import "math"

// A Recording is what a player tells of sound or film.
type Recording struct {
	Seconds       float64 // of the longest stream
	Codecs        []string
	Width, Height int // of the film, as stored; 0: there is none
}

// IsRecording says whether a kind is sound or film, whose facts a player has to tell; see [Facts.AddRecording].
func IsRecording(kind string) bool {
	switch kind {
	case "mp3", "m4a", "wav", "ogg", "flac", "mp4", "mov", "webm", "mkv":
		return true
	}
	return false
}

// AddRecording adds what a player tells, to the millisecond.
func (f *Facts) AddRecording(r Recording) {
	f.Seconds, f.Codec, f.Container = ref(math.Round(r.Seconds*1000)/1000), &r.Codecs, &f.Kind
	if r.Width > 0 && r.Height > 0 {
		f.Width, f.Height = &r.Width, &r.Height
	}
}

// NotPlayed notes that a recording does not open or play.
func (f *Facts) NotPlayed() { f.problem("damaged", "seconds", "It does not open as sound or film.") }
