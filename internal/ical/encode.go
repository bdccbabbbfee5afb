package ical

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/emersion/go-ical"
)

// encode writes a component as content lines (RFC 5545, 3.1). The library's own
// encoder quotes a parameter only where the grammar demands it, and readers cut
// names at what it leaves unquoted.
func encode(c *ical.Component) []byte {
	var out bytes.Buffer
	encodeInto(&out, c)
	return out.Bytes()
}

func encodeInto(out *bytes.Buffer, c *ical.Component) {
	fold(out, "BEGIN:"+c.Name)
	for _, name := range slices.Sorted(maps.Keys(c.Props)) {
		for _, p := range c.Props[name] {
			fold(out, contentLine(p))
		}
	}
	for _, child := range c.Children {
		encodeInto(out, child)
	}
	fold(out, "END:"+c.Name)
}

func contentLine(p ical.Prop) string {
	var line strings.Builder
	line.WriteString(p.Name)
	for _, name := range slices.Sorted(maps.Keys(p.Params)) {
		line.WriteString(";" + name + "=")
		for i, value := range p.Params[name] {
			if i > 0 {
				line.WriteByte(',')
			}
			if free[name] || strings.ContainsAny(value, ",;:") {
				value = `"` + value + `"`
			}
			line.WriteString(value)
		}
	}
	line.WriteString(":" + p.Value)
	return line.String()
}

// free are the parameters that hold what somebody typed.
var free = map[string]bool{ical.ParamCommonName: true, "LABEL": true}

// param writes a parameter value with the escapes of RFC 6868. A backslash, which
// has none there, is dropped: some readers take it for one of their own.
func param(s string) string {
	return strings.NewReplacer("^", "^^", "\n", "^n", `"`, "^'", `\`, "").Replace(s)
}

// mailto is an address as a URI (RFC 6068, 2): of what can stand in a local part,
// only letters, digits and a few marks stand for themselves.
func mailto(email string) string {
	const unescaped = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-._~!$'*+@"
	var out strings.Builder
	out.WriteString("mailto:")
	for _, b := range []byte(email) {
		if strings.IndexByte(unescaped, b) >= 0 {
			out.WriteByte(b)
		} else {
			fmt.Fprintf(&out, "%%%02X", b)
		}
	}
	return out.String()
}

// fold writes a line, broken where it is longer than 75 octets, never inside a
// character.
func fold(out *bytes.Buffer, line string) {
	const limit = 75
	room := limit
	for len(line) > room {
		cut := room
		for !utf8.RuneStart(line[cut]) {
			cut--
		}
		out.WriteString(line[:cut])
		out.WriteString("\r\n ")
		line, room = line[cut:], limit-1
	}
	out.WriteString(line)
	out.WriteString("\r\n")
}
