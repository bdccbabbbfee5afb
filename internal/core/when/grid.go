package when

import (
	"math/bits"
	"time"
)

// Quarter is the step of the grid: a quarter of an hour.
const Quarter = 15 * time.Minute

// Grid is a window in quarters of an hour, the first of which begins at Start.
type Grid struct {
	Start Instant
	N     int // quarters
}

// GridOver is the grid of the quarters that lie in a window wholly. Quarters are those
// of UTC: clocks everywhere are a multiple of them from it.
func GridOver(window Span) Grid {
	const step = Instant(Quarter / time.Second)
	start := (window.Start + step - 1) / step * step
	if window.End <= start {
		return Grid{Start: start}
	}
	return Grid{Start: start, N: int((window.End - start) / step)}
}

// At is when a quarter begins.
func (g Grid) At(i int) Instant { return g.Start.Add(time.Duration(i) * Quarter) }

// Quarters is how many quarters a length takes.
func Quarters(length time.Duration) int { return int((length + Quarter - 1) / Quarter) }

// place is the range of quarters that a span meets: rounded outward.
func (g Grid) place(s Span) (from, to int) {
	const step = Instant(Quarter / time.Second)
	if s.Empty() || s.End <= g.Start {
		return 0, 0
	}
	from = int((max(s.Start, g.Start) - g.Start) / step)
	to = int((s.End - g.Start + step - 1) / step)
	return min(from, g.N), min(to, g.N)
}

// Bits is a set of quarters of a grid, a bit each.
type Bits []uint64

// Bits are the quarters that spans meet.
func (g Grid) Bits(spans Spans) Bits {
	b := make(Bits, (g.N+63)/64)
	for _, s := range spans {
		from, to := g.place(s)
		b.set(from, to)
	}
	return b
}

// set puts the quarters from one to before another in.
func (b Bits) set(from, to int) {
	for w := from / 64; w*64 < to; w++ {
		mask := ^uint64(0)
		if from > w*64 {
			mask &= ^uint64(0) << (from - w*64)
		}
		if to < w*64+64 {
			mask &= 1<<(to-w*64) - 1
		}
		b[w] |= mask
	}
}

// Has tells whether a quarter is in the set.
func (b Bits) Has(i int) bool { return b[i/64]>>(i%64)&1 != 0 }

// Starts are the quarters at which a stretch of n can begin that meets nothing of b, in
// a grid of so many quarters; into is room for the result.
func (b Bits) Starts(n, quarters int, into Bits) Bits {
	into = append(into[:0], b...)
	for done := 1; done < n; { // into holds what a stretch of done would meet
		by := min(done, n-done)
		into.orShifted(by)
		done += by
	}
	for w := range into {
		into[w] = ^into[w]
	}
	into.cut(quarters - n + 1)
	return into
}

// orShifted adds the set moved so many quarters earlier.
func (b Bits) orShifted(by int) {
	words, rest := by/64, by%64
	for w := range b {
		var x uint64
		if w+words < len(b) {
			x = b[w+words] >> rest
		}
		if rest > 0 && w+words+1 < len(b) {
			x |= b[w+words+1] << (64 - rest)
		}
		b[w] |= x
	}
}

// Or adds another set, And leaves what is in both.
func (b Bits) Or(o Bits) {
	for w := range b {
		b[w] |= o[w]
	}
}

func (b Bits) And(o Bits) {
	for w := range b {
		b[w] &= o[w]
	}
}

// Not makes it the set of the quarters that were not in it, of a grid of so many.
func (b Bits) Not(quarters int) Bits {
	for w := range b {
		b[w] = ^b[w]
	}
	b.cut(quarters)
	return b
}

// cut leaves out what is past a number of quarters.
func (b Bits) cut(quarters int) {
	quarters = max(quarters, 0)
	for w := range b {
		switch {
		case w*64 >= quarters:
			b[w] = 0
		case w*64+64 > quarters:
			b[w] &= 1<<(quarters-w*64) - 1
		}
	}
}

// Lonely are the quarters beside which, by so many away, a single quarter is clear in b:
// the one behind it, seen from there, is taken or past the grid. A negative distance
// looks back.
func (b Bits) Lonely(by, quarters int, into Bits) Bits {
	step := 1
	if by < 0 {
		step = -1
	}
	into = append(into[:0], b...)
	for w := range into {
		into[w] = ^b.from(w*64+by, quarters) & b.from(w*64+by+step, quarters)
	}
	into.cut(quarters)
	return into
}

// from are the 64 quarters from one on; what is past the grid is in it.
func (b Bits) from(at, quarters int) uint64 {
	word := func(w int) uint64 {
		switch {
		case w < 0 || w*64 >= quarters:
			return ^uint64(0)
		case w*64+64 > quarters:
			return b[w] | ^uint64(0)<<(quarters-w*64)
		}
		return b[w]
	}
	w, rest := at>>6, at&63
	if rest == 0 {
		return word(w)
	}
	return word(w)>>rest | word(w+1)<<(64-rest)
}

// Each calls do for every quarter in the set, in order.
func (b Bits) Each(do func(i int)) {
	for w, x := range b {
		for ; x != 0; x &= x - 1 {
			do(w*64 + bits.TrailingZeros64(x))
		}
	}
}

// Parts calls do for each quarter that a span meets, with how much of it.
func (g Grid) Parts(s Span, do func(i int, part time.Duration)) {
	from, to := g.place(s)
	for i := from; i < to; i++ {
		do(i, s.Intersect(Span{g.At(i), g.At(i + 1)}).Length())
	}
}
