package convert

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"

	"orario/core/inspect"
	"orario/core/wording"
	"orario/internal/confine"
)

// A probed recording is what ffprobe tells of a file.
type probed struct {
	Streams []struct {
		CodecType string `json:"codec_type"` // video, audio, …
		CodecName string `json:"codec_name"`
		Duration  string `json:"duration"` // seconds
		Width     int    `json:"width"`
		Height    int    `json:"height"`
		Picture   struct {
			Attached int `json:"attached_pic"` // a cover and no film
		} `json:"disposition"`
	} `json:"streams"`
	Format struct {
		Name     string `json:"format_name"`
		Duration string `json:"duration"`
	} `json:"format"`
}

// seconds is the length of the longest stream; 0 where none is told.
func (p probed) seconds() (longest float64) {
	for _, s := range p.Streams {
		if d, err := strconv.ParseFloat(s.Duration, 64); err == nil {
			longest = max(longest, d)
		}
	}
	if d, err := strconv.ParseFloat(p.Format.Duration, 64); err == nil {
		longest = max(longest, d)
	}
	return longest
}

func (p probed) has(kind string) bool {
	for _, s := range p.Streams {
		if s.CodecType == kind && s.Picture.Attached == 0 {
			return true
		}
	}
	return false
}

// probe reads what a folder holds as "in" with ffprobe.
func probe(ctx context.Context, work string) (p probed, err error) {
	out, err := confine.Box{Work: work, Memory: maxPDFMemory}.Run(ctx, maxLook, nil, "ffprobe", "-v", "error",
		"-protocol_whitelist", "file", "-print_format", "json", "-show_format", "-show_streams", "in")
	if err != nil {
		return p, err
	}
	return p, json.Unmarshal(out, &p)
}

// played adds what a player tells of sound or film, which goes to it through a file, however large it is.
func (t *Tools) played(ctx context.Context, facts *inspect.Facts, content io.Reader) error {
	_, err := t.inFolder(ctx, func(work string) ([]byte, error) {
		to, err := os.Create(filepath.Join(work, "in"))
		if err != nil {
			return nil, err
		}
		if _, err := io.Copy(to, content); err != nil {
			return nil, errors.Join(err, to.Close())
		}
		if err := to.Close(); err != nil {
			return nil, err
		}
		p, err := probe(ctx, work)
		seconds := p.seconds()
		if err == nil && (seconds == 0 || facts.Kind == "mp3") { // its header guesses, or says nothing
			if counted, err := countPackets(ctx, work); err == nil && counted > 0 {
				seconds = counted
			}
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err != nil || seconds == 0 {
			facts.NotPlayed()
			return nil, nil
		}
		r := inspect.Recording{Seconds: seconds, Codecs: []string{}}
		for _, s := range p.Streams {
			if s.Picture.Attached != 0 || s.CodecName == "" {
				continue
			}
			r.Codecs = append(r.Codecs, s.CodecName)
			if s.CodecType == "video" && r.Width == 0 {
				r.Width, r.Height = s.Width, s.Height
			}
		}
		facts.AddRecording(r)
		return nil, nil
	})
	return err
}

// countPackets is the end of the last packet of any stream, in seconds.
func countPackets(ctx context.Context, work string) (end float64, err error) {
	out, err := confine.Box{Work: work, Memory: maxPDFMemory}.Run(ctx, maxLook, nil, "ffprobe", "-v", "error",
		"-protocol_whitelist", "file", "-of", "csv=p=0", "-show_entries", "packet=pts_time,duration_time", "in")
	if err != nil {
		return 0, err
	}
	begin := math.Inf(1)
	for line := range strings.Lines(string(out)) {
		at, lasts, _ := strings.Cut(strings.TrimRight(line, ",\n"), ",")
		from, err := strconv.ParseFloat(at, 64)
		if err != nil {
			continue
		}
		length, _ := strconv.ParseFloat(lasts, 64)
		begin, end = min(begin, from), max(end, from+length)
	}
	return max(0, end-min(begin, end)), nil
}

// codecs are ffmpeg's settings for what a form holds.
var codecs = map[string][]string{
	"mp3": {"-vn", "-c:a", "libmp3lame"}, "m4a": {"-vn", "-c:a", "aac"}, "wav": {"-vn", "-c:a", "pcm_s16le"},
	"ogg": {"-vn", "-c:a", "libvorbis"}, "flac": {"-vn", "-c:a", "flac"},
	"mp4":  {"-c:v", "libx264", "-preset", "veryfast", "-pix_fmt", "yuv420p", "-c:a", "aac", "-movflags", "+faststart"},
	"mov":  {"-c:v", "libx264", "-preset", "veryfast", "-pix_fmt", "yuv420p", "-c:a", "aac"},
	"mkv":  {"-c:v", "libx264", "-preset", "veryfast", "-pix_fmt", "yuv420p", "-c:a", "aac"},
	"webm": {"-c:v", "libvpx", "-deadline", "realtime", "-cpu-used", "6", "-c:a", "libopus"},
}

// makeRecording makes sound or film of another form, or of fewer bytes.
func (t *Tools) makeRecording(ctx context.Context, m *Made, f inspect.Named, form string, w Wishes) error {
	film := sorts[form] == Film
	data, err := t.inFolder(ctx, func(work string) ([]byte, error) {
		if err := os.WriteFile(filepath.Join(work, "in"), f.Data, 0o600); err != nil {
			return nil, err
		}
		p, err := probe(ctx, work)
		if err != nil || p.seconds() == 0 {
			return nil, fmt.Errorf("%s cannot be converted. It does not open as sound or film", f.Name)
		}
		if film && !p.has("video") {
			return nil, fmt.Errorf("%s holds no pictures, so it cannot become .%s; choose mp3, m4a, ogg, wav or flac",
				f.Name, form)
		}
		if !film && !p.has("audio") {
			return nil, fmt.Errorf("%s holds no sound, so it cannot become .%s", f.Name, form)
		}
		length, err := w.cut(p.seconds())
		if err != nil {
			return nil, fmt.Errorf("%s %w", f.Name, err)
		}
		least := int64(1) << 62
		for _, share := range []float64{0.93, 0.8, 0.6} { // of the bytes; containers take some, encoders miss a little
			arguments := []string{
				"-v", "error", "-nostdin", "-y", "-protocol_whitelist", "file", "-i", "in", "-map_metadata", "0",
			}
			if length < p.seconds() {
				arguments = append(arguments, "-ss", fmt.Sprintf("%.3f", w.From), "-t", fmt.Sprintf("%.3f", length))
			}
			arguments = append(arguments, codecs[form]...)
			if w.MaxBytes > 0 {
				rates, ok := rates(share*8*float64(w.MaxBytes)/length, film)
				if !ok {
					return nil, Over{int64(length * leastRate(film) / 8), w.MaxBytes}
				}
				arguments = append(arguments, rates...)
			}
			if err := ffmpeg(ctx, work, f, append(arguments, "-f", muxers[form], "out")); err != nil {
				return nil, err
			}
			made, err := os.ReadFile(filepath.Join(work, "out"))
			if err != nil || w.MaxBytes == 0 || int64(len(made)) <= w.MaxBytes {
				return made, err
			}
			least = min(least, int64(len(made)))
		}
		return nil, Over{least, w.MaxBytes}
	})
	if err != nil {
		return err
	}
	m.Data = data
	if w.From > 0 || w.Length > 0 {
		m.did("cut, from %.1f s on", w.From)
	}
	m.did("%s as .%s, %s", f.Name, form, wording.Bytes(int64(len(data))))
	return nil
}

// cut is how many seconds are left of so many.
func (w Wishes) cut(length float64) (float64, error) {
	if w.From > 0 && w.From >= length {
		return 0, fmt.Errorf("ends after %.1f s, so nothing of it is left from %.1f s on", length, w.From)
	}
	if length -= w.From; w.Length > 0 {
		length = min(length, w.Length)
	}
	return length, nil
}

// muxers are ffmpeg's names of the forms.
var muxers = map[string]string{
	"mp3": "mp3", "m4a": "ipod", "wav": "wav", "ogg": "ogg", "flac": "flac", "mp4": "mp4", "mov": "mov",
	"mkv": "matroska", "webm": "webm",
}

func ffmpeg(ctx context.Context, work string, f inspect.Named, arguments []string) error {
	_, err := confine.Box{Work: work, Memory: maxMemory}.Run(ctx, maxToolTime, nil, "ffmpeg", arguments...)
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return fmt.Errorf("%s cannot be converted. It does not play to its end", f.Name)
	}
	return err
}

// leastRate is the fewest bits per second at which speech is understood and film can be followed (common practice).
func leastRate(film bool) float64 {
	if film {
		return 80_000
	}
	return 16_000
}

// rates are ffmpeg's settings for so many bits per second in all; ok is false where they are too few.
func rates(bits float64, film bool) (arguments []string, ok bool) {
	if bits < leastRate(film) {
		return nil, false
	}
	if !film {
		rate := min(bits, 256_000)
		arguments = []string{"-b:a", fmt.Sprintf("%.0f", rate)}
		if rate < 64_000 {
			arguments = append(arguments, "-ac", "1", "-ar", "22050")
		}
		return arguments, true
	}
	sound := min(128_000, max(24_000, bits/6))
	picture := min(bits-sound, 8_000_000)
	arguments = []string{
		"-b:a", fmt.Sprintf("%.0f", sound), "-b:v", fmt.Sprintf("%.0f", picture),
		"-maxrate", fmt.Sprintf("%.0f", picture), "-bufsize", fmt.Sprintf("%.0f", picture),
	}
	switch {
	case picture < 250_000:
		arguments = append(arguments, "-vf", "scale='min(426,iw)':-2,fps=15")
	case picture < 900_000:
		arguments = append(arguments, "-vf", "scale='min(854,iw)':-2")
	}
	return arguments, true
}
