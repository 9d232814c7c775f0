// Package timecode is frames and times: which frames a length of film has, when each is shown, and how they are
// counted and written.
package timecode

import (
	"fmt"
	"math"

	"slowreveal/core/reveal"
)

// FrameCount returns how many frames a length of film has at rate frames a
// second: every frame whose time k/rate lies before the end.
func FrameCount(length reveal.Micros, rate int) int {
	return Rate{rate, 1}.Count(length)
}

// FrameTime returns the time k/rate that frame k shows, to the nearest
// microsecond.
func FrameTime(k, rate int) reveal.Micros {
	return Rate{rate, 1}.Time(k)
}

// Rate is how many frames a film has a second, as a fraction: 30/1, 30000/1001.
type Rate struct {
	Num int `json:"num"`
	Den int `json:"den"`
}

// RateOf returns frames a second; slowed takes 1000/1001 of them, as television of
// 59.94 and 29.97 frames a second has it.
func RateOf(frames int, slowed bool) Rate {
	if slowed {
		return Rate{frames * 1000, 1001}
	}
	return Rate{frames, 1}
}

// String returns the rate as a fraction.
func (r Rate) String() string { return fmt.Sprintf("%d/%d", r.Num, r.Den) }

// Count is FrameCount at the rate.
func (r Rate) Count(length reveal.Micros) int {
	second := int64(reveal.Second) * int64(r.Den)
	return int((int64(length)*int64(r.Num) + second - 1) / second)
}

// Time is FrameTime at the rate.
func (r Rate) Time(k int) reveal.Micros {
	return reveal.Micros((int64(k)*int64(reveal.Second)*int64(r.Den) + int64(r.Num)/2) / int64(r.Num))
}

// DropFrame returns the SMPTE ST 12-1 drop-frame timecode of frame k at 30000/1001 frames
// a second (or, with 60, at 60000/1001): the numbers ;00 and ;01 (to ;03) are left out at
// the beginning of every minute but each tenth, so that it keeps step with the clock.
func DropFrame(k, nominal int) string {
	drop := nominal / 15
	minute, ten := nominal*60-drop, nominal*600-9*drop
	tens, rest := k/ten, k%ten
	k += 9 * drop * tens
	if rest >= drop {
		k += drop * ((rest - drop) / minute)
	}
	s := k / nominal
	return fmt.Sprintf("%02d:%02d:%02d;%02d", s/3600, s/60%60, s%60, k%nominal)
}

// SMPTE returns the timecode of frame k (SMPTE ST 12-1): hours, minutes, seconds and frames,
// counted by DropFrame where the rate is 30000/1001 or 60000/1001.
func SMPTE(k int, r Rate) string {
	nominal := (r.Num + r.Den - 1) / r.Den
	if r.Den == 1001 && (nominal == 30 || nominal == 60) {
		return DropFrame(k, nominal)
	}
	s := k / nominal
	return fmt.Sprintf("%02d:%02d:%02d:%02d", s/3600, s/60%60, s%60, k%nominal)
}

// Snap returns the time of the frame nearest to t; times may be negative.
func Snap(t reveal.Micros, rate int) reveal.Micros {
	k := (float64(t) * float64(rate)) / float64(reveal.Second)
	return reveal.Micros(math.Round(math.Round(k) * float64(reveal.Second) / float64(rate)))
}

// Clock returns t as minutes, seconds and hundredths, with the number of the
// frame that is shown then.
func Clock(t reveal.Micros, rate int) string {
	hundredths := int64(t) / 10_000
	frame := int64(t) * int64(rate) / int64(reveal.Second)
	return fmt.Sprintf("%02d:%02d.%02d %d", hundredths/6000, hundredths/100%60, hundredths%100, frame)
}

// StepFrames returns the time of the frame that is so many frames after the one nearest to t, or before it.
func StepFrames(t reveal.Micros, frames, rate int) reveal.Micros {
	return Snap(t+reveal.Micros(math.Round(float64(frames)*float64(reveal.Second)/float64(rate))), rate)
}
