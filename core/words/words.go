// Package words cuts and capitalises text by characters, never by bytes: a tag
// may be Cyrillic, a title may begin with an umlaut, a place may end in an
// emoji.
package words

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Capital begins a sentence: its first letter is made a capital. An empty text
// stays empty.
func Capital(s string) string { return first(s, unicode.ToUpper) }

// Small makes the first letter a small one, where a sentence goes on. A first
// word in capitals stays, for tags begin sentences too and stand as they do on
// the tape.
func Small(s string) string {
	if head, _, _ := strings.Cut(s, " "); head == strings.ToUpper(head) {
		return s
	}
	return first(s, unicode.ToLower)
}

func first(s string, as func(rune) rune) string {
	r, size := utf8.DecodeRuneInString(s)
	if size == 0 {
		return ""
	}
	return string(as(r)) + s[size:]
}

// Shorten keeps a text to so many characters, with an ellipsis in place of the
// last where something had to go. Where there is room for none it gives
// nothing.
func Shorten(s string, most int) string {
	if utf8.RuneCountInString(s) <= most {
		return s
	}
	if most <= 0 {
		return ""
	}
	return string([]rune(s)[:most-1]) + "…"
}

// Count says how many of a thing there are, as "1 box" or "2 boxes".
func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Spell says how many of a thing there are at the head of a sentence: small
// numbers in letters, as "No box", "One box", "Two boxes" or "7 boxes".
func Spell(n int, one, many string) string {
	small := [...]string{"No", "One", "Two", "Three", "Four", "Five", "Six"}
	count := strconv.Itoa(n)
	if n >= 0 && n < len(small) {
		count = small[n]
	}
	if n == 1 {
		return count + " " + one
	}
	return count + " " + many
}

// List names things in a sentence, as "A", "A and B" or "A, B, C and 4 more".
func List(names []string) string {
	const most = 4
	switch n := len(names); {
	case n == 0:
		return "nothing"
	case n == 1:
		return names[0]
	case n > most:
		return strings.Join(names[:most-1], ", ") + fmt.Sprintf(" and %d more", n-most+1)
	default:
		return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
	}
}

// Is is the verb of so many things.
func Is(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}
