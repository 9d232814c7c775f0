package encode

import (
	"context"
	"fmt"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"

	"slowreveal/core/timecode"
)

// Purpose is what a film is for: it decides between size, quality and time.
type Purpose string

// The purposes.
const (
	Draft   Purpose = "draft"   // a look at the timing, at once
	Web     Purpose = "web"     // to be watched
	Archive Purpose = "archive" // to be kept: hardly a loss
	Edit    Purpose = "edit"    // to be cut: every frame stands alone
)

// Format is a kind of video file.
type Format struct {
	Name      string `json:"name"`
	Title     string `json:"title"`
	Extension string `json:"extension"`
	Media     string `json:"media"` // MIME type
	// Alpha says that the format keeps what is see-through.
	Alpha bool `json:"alpha"`
	// Sound says that it can hold sound.
	Sound bool `json:"sound"`
	// Cover says that it can hold a picture that stands for the film.
	Cover bool `json:"cover"`
	// Purposes says that what a film is for changes its size and its quality: where nothing is lost, or all frames are
	// made one way, it does not.
	Purposes bool `json:"purposes"`
	// MaxRate is the largest number of frames a second that it holds, 0 for any.
	MaxRate int `json:"maxRate"`
	// BitsPerPixel is what a pixel of a frame takes about, for the purpose Web: from the
	// example, no source.
	BitsPerPixel float64 `json:"bitsPerPixel"`

	encoder string
	// segment is the container of segments; they are joined without encoding them again
	// unless again gives arguments.
	segment string
	even    bool   // both sides must be even
	palette bool   // of few colours
	pixels  string // what ffmpeg takes from us: yuv420p, rgba or, where the format has more than 8 bits, rgba64le
	args    func(s *Settings) []string
	again   []string
}

// Even reports whether both sides of a picture must be even.
func (f *Format) Even() bool { return f.even }

// Graded reports whether the format keeps fine grades of colours, so that it gains by pictures that are rounded by
// noise. One that has a palette rounds in its own way.
func (f *Format) Graded() bool { return !f.palette }

// Raw names the layout of the frames that the format takes: yuv420p, rgba or, with more than 8 bits, rgba64le.
func (f *Format) Raw() string { return f.pixels }

func choose[T any](p Purpose, draft, web, archive, edit T) T {
	switch p {
	case Draft:
		return draft
	case Archive:
		return archive
	case Edit:
		return edit
	}
	return web
}

var bt709 = []string{"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709"}

// drawn is what of x264's slower presets pays for drawn pictures: sixteen seconds of the example
// are 14 % larger than by veryfast, as like to its frames (SSIM 26.9 dB), and take half the time. With
// more strength where there is little to see, and for colours, the paper keeps its grades.
const drawn = "cabac=1:deblock=0,0:8x8dct=1:partitions=i4x4:mbtree=1:rc-lookahead=8:aq-mode=1:aq-strength=1.2:chroma-qp-offset=-2:bframes=3:b-adapt=0"

// toBT709 turns RGB with 16 bits into Y′CbCr as video has it: ffmpeg's own scaler takes white for 256/255 of white;
// zscale is zimg's.
const toBT709 = "zscale=min=gbr:rin=full:m=709:r=limited,format=yuva444p10le,setparams=range=tv:colorspace=bt709:color_primaries=bt709:color_trc=bt709"

// formats are all that Slow Reveal can write. One thread of x264 takes 9 % less time than two
// do together, and the renderer has use for what is left. The number of threads of an encoder is fixed
// where its output depends on it: the same bytes on every machine of one build.
var formats = []Format{
	{
		Name:         "mp4-h264",
		Purposes:     true,
		Cover:        true,
		Title:        "MP4, H.264",
		Extension:    "mp4",
		Media:        "video/mp4",
		Sound:        true,
		BitsPerPixel: 0.045,
		encoder:      "libx264",
		segment:      "mp4",
		even:         true,
		pixels:       "yuv420p",
		args: func(s *Settings) []string {
			a := []string{
				"-c:v",
				"libx264",
				"-threads",
				"1",
				"-preset",
				choose(s.Purpose, "ultrafast", "ultrafast", "medium", "veryfast"),
				"-crf",
				choose(s.Purpose, "32", "17.5", "14.5", "12"),
				"-pix_fmt",
				"yuv420p",
				"-profile:v",
				"high",
			}
			if s.Purpose == Web || s.Purpose == "" {
				a = append(a, "-x264-params", drawn)
			}
			if s.Purpose == Draft {
				a = append(a, "-x264-params", "cabac=1:8x8dct=1") // half the bytes of the preset alone
			}
			if s.Purpose == Edit {
				a = append(a, "-g", "1")
			}
			return append(a, bt709...)
		},
	},
	{
		Name:         "mp4-h265",
		Purposes:     true,
		Cover:        true,
		Title:        "MP4, H.265",
		Extension:    "mp4",
		Media:        "video/mp4",
		Sound:        true,
		BitsPerPixel: 0.03,
		encoder:      "libx265",
		segment:      "mp4",
		even:         true,
		pixels:       "yuv420p",
		args: func(s *Settings) []string {
			keys := ""
			if s.Purpose == Edit {
				keys = ":keyint=1"
			}
			return append(
				[]string{
					"-c:v",
					"libx265",
					"-preset",
					choose(s.Purpose, "ultrafast", "superfast", "medium", "superfast"),
					"-crf",
					choose(s.Purpose, "30", "21", "15", "15"),
					"-x265-params",
					"log-level=error:pools=2:frame-threads=1" + keys,
					"-pix_fmt",
					"yuv420p",
					"-tag:v",
					"hvc1",
				},
				bt709...)
		},
	},
	{
		Name:         "mp4-av1",
		Purposes:     true,
		Cover:        true,
		Title:        "MP4, AV1",
		Extension:    "mp4",
		Media:        "video/mp4",
		Sound:        true,
		MaxRate:      240,
		BitsPerPixel: 0.025,
		encoder:      "libsvtav1",
		segment:      "mp4",
		even:         true,
		pixels:       "yuv420p",
		args: func(s *Settings) []string {
			keys := []string{"-g", "240", "-svtav1-params", "lp=2"}
			if s.Purpose == Edit { // a group of one frame is not one to this encoder: every frame has to be asked for
				keys = []string{"-force_key_frames", "expr:1", "-svtav1-params", "lp=2:enable-force-key-frames=1"}
			}
			return slices.Concat(
				[]string{
					"-c:v",
					"libsvtav1",
					"-preset",
					choose(s.Purpose, "12", "10", "6", "10"),
					"-crf",
					choose(s.Purpose, "42", "30", "20", "20"),
				},
				keys,
				[]string{"-pix_fmt", "yuv420p"},
				bt709,
			)
		},
	},
	{
		Name:         "webm-vp9",
		Purposes:     true,
		Title:        "WebM, VP9",
		Extension:    "webm",
		Media:        "video/webm",
		Sound:        true,
		BitsPerPixel: 0.03,
		encoder:      "libvpx-vp9",
		segment:      "webm",
		even:         true,
		pixels:       "yuv420p",
		args: func(s *Settings) []string {
			return append(
				[]string{
					"-c:v",
					"libvpx-vp9",
					"-threads",
					"2",
					"-deadline",
					choose(s.Purpose, "realtime", "good", "good", "good"),
					"-cpu-used",
					choose(s.Purpose, "8", "5", "2", "5"),
					"-b:v",
					"0",
					"-crf",
					choose(s.Purpose, "45", "28", "18", "18"),
					"-g",
					choose(s.Purpose, "240", "240", "240", "1"),
					"-pix_fmt",
					"yuv420p",
				},
				bt709...)
		},
	},
	{
		Name:         "mov-prores",
		Title:        "MOV, ProRes 4444 with alpha",
		Extension:    "mov",
		Media:        "video/quicktime",
		Alpha:        true,
		Sound:        true,
		BitsPerPixel: 1.4,
		encoder:      "prores_ks",
		segment:      "mov",
		even:         true,
		pixels:       "rgba64le",
		args: func(*Settings) []string {
			return append(
				[]string{
					"-vf",
					toBT709,
					"-c:v",
					"prores_ks",
					"-profile:v",
					"4444",
					"-alpha_bits",
					"16",
					"-vendor",
					"apl0",
					"-pix_fmt",
					"yuva444p10le",
				},
				bt709...)
		},
	},
	{
		Name:         "mov-png",
		Title:        "MOV, PNG with alpha, no loss",
		Extension:    "mov",
		Media:        "video/quicktime",
		Alpha:        true,
		Sound:        true,
		BitsPerPixel: 2.2,
		encoder:      "png",
		segment:      "mov",
		pixels:       "rgba",
		args:         func(*Settings) []string { return []string{"-c:v", "png", "-pix_fmt", "rgba"} },
	},
	{
		Name:         "avi-mjpeg",
		Purposes:     true,
		Title:        "AVI, MJPEG",
		Extension:    "avi",
		Media:        "video/x-msvideo",
		Sound:        true,
		BitsPerPixel: 0.9,
		encoder:      "mjpeg",
		segment:      "avi",
		even:         true,
		pixels:       "rgba",
		args: func(s *Settings) []string {
			return []string{
				"-vf",
				"scale=out_color_matrix=bt601:out_range=pc",
				"-c:v",
				"mjpeg",
				"-q:v",
				choose(s.Purpose, "8", "3", "1", "1"),
				"-pix_fmt",
				"yuvj420p",
			}
		},
	},
	{
		Name:         "gif",
		palette:      true,
		Title:        "GIF",
		Extension:    "gif",
		Media:        "image/gif",
		MaxRate:      50,
		BitsPerPixel: 0.7,
		encoder:      "gif",
		segment:      "nut",
		pixels:       "rgba",
		args:         lossless,
		again: []string{
			"-filter_complex",
			"[0:v]split[a][b];[a]palettegen=stats_mode=diff[p];[b][p]paletteuse=dither=sierra2_4a",
			"-loop",
			"0",
		},
	},
	{
		Name:         "webp",
		Title:        "Animated WebP",
		Extension:    "webp",
		Media:        "image/webp",
		MaxRate:      60,
		BitsPerPixel: 0.1,
		encoder:      "libwebp_anim",
		segment:      "nut",
		pixels:       "rgba",
		args:         lossless,
		again:        []string{"-c:v", "libwebp_anim", "-lossless", "0", "-q:v", "80", "-loop", "0"},
	},
}

// lossless is what is kept between frames and a format that is made of all of them.
func lossless(*Settings) []string { return []string{"-c:v", "ffv1", "-pix_fmt", "bgr0"} }

// Lookup returns a format by its name.
func Lookup(name string) (*Format, error) {
	for i := range formats {
		if formats[i].Name == name {
			return &formats[i], nil
		}
	}
	names := make([]string, len(formats))
	for i := range formats {
		names[i] = formats[i].Name
	}
	return nil, fmt.Errorf("there is no video format %q; there are %s", name, strings.Join(names, ", "))
}

var listing struct {
	sync.Mutex
	of      string // the program that was asked
	formats []Format
}

// Available lists the formats for which this machine's ffmpeg has the encoder.
func Available(ctx context.Context) ([]Format, error) {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil, ErrNoFFmpeg
	}
	listing.Lock()
	defer listing.Unlock()
	if listing.of == program {
		return listing.formats, nil
	}
	out, err := exec.CommandContext(ctx, program, "-hide_banner", "-encoders").Output()
	if err != nil {
		return nil, fmt.Errorf("asking %s what it can encode: %w", program, err)
	}
	have := map[string]bool{}
	for _, line := range strings.Split(string(out), "\n") {
		if f := strings.Fields(line); len(f) >= 2 {
			have[f[1]] = true
		}
	}
	var list []Format
	for _, f := range formats {
		if have[f.encoder] {
			list = append(list, f)
		}
	}
	listing.of, listing.formats = program, list
	return list, nil
}

// Check says what is missing for a format: the encoder, and what is there instead.
func Check(ctx context.Context, f *Format) error {
	list, err := Available(ctx)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(list, func(g Format) bool { return g.Name == f.Name }) {
		return nil
	}
	names := make([]string, len(list))
	for i := range list {
		names[i] = list[i].Title
	}
	return fmt.Errorf(
		"this machine's ffmpeg has no encoder %s, which %s needs; it can make %s",
		f.encoder,
		f.Title,
		strings.Join(names, "; "),
	)
}

// timescale is how many ticks a second a container is asked to count.
func timescale(r timecode.Rate) string { return strconv.Itoa(r.Num * max(1, 1000/r.Den)) }

// FormatOf returns the name of the usual format of files with a file's ending.
func FormatOf(file string) (string, error) {
	ending := strings.TrimPrefix(strings.ToLower(filepath.Ext(file)), ".")
	var endings []string
	for i := range formats {
		f := &formats[i]
		if f.Extension == ending {
			return f.Name, nil
		}
		if !slices.Contains(endings, "."+f.Extension) {
			endings = append(endings, "."+f.Extension)
		}
	}
	return "", fmt.Errorf(
		"%q does not say what film to make: give it one of the endings %s, or say --format",
		file,
		strings.Join(endings, ", "),
	)
}
