package prose

import (
	"hash/maphash"
	"sync/atomic"
)

// present says by which two letters words of a string begin, and which two bytes stand beside each other in it: enough
// to tell of most rules that they need not be tried on it.
type present struct {
	hash       uint64
	begins     twoLetters
	neighbours [16]uint64 // by a hash of 10 bits
}

func neighbours(a, b byte) (word int, bit uint64) {
	k := (int(a)*37 + int(b)) & 1023
	return k / 64, 1 << (k % 64)
}

// mayHold says that a sign can stand in the string.
func (p *present) mayHold(sign string) bool {
	for i := 0; i+1 < len(sign); i++ {
		if word, bit := neighbours(sign[i], sign[i+1]); p.neighbours[word]&bit == 0 {
			return false
		}
	}
	return true
}

// twoLetters is a set of two letters, of which the second may be none.
type twoLetters [12]uint64

const letters = 27 // and what is none

func (p *twoLetters) add(first, second byte) {
	k := int(first-'a') * letters
	if isLetter(second) {
		k += int(second-'a') + 1
	}
	p[k/64] |= 1 << (k % 64)
}

func (p *twoLetters) meets(o *twoLetters) bool {
	for i, bits := range p {
		if bits&o[i] != 0 {
			return true
		}
	}
	return false
}

var (
	seed = maphash.MakeSeed()
	// The same sentence is asked for by hundreds of rules, one after the other. Two strings are taken for the same by a
	// hash of 64 bits whose seed nobody knows.
	lately [1024]atomic.Pointer[present]
)

// presentIn is what is present in a plain string.
func presentIn(s string) *present {
	hash := maphash.String(seed, s)
	slot := &lately[hash%uint64(len(lately))]
	if p := slot.Load(); p != nil && p.hash == hash {
		return p
	}
	p := &present{hash: hash}
	inside := false // of a word
	for i := range len(s) {
		if i > 0 {
			word, bit := neighbours(s[i-1], s[i])
			p.neighbours[word] |= bit
		}
		letter := isLetter(s[i])
		if letter && !inside {
			next := byte(' ')
			if i+1 < len(s) {
				next = s[i+1]
			}
			p.begins.add(s[i], next)
		}
		inside = letter
	}
	slot.Store(p)
	return p
}
