package postgres

import (
	"encoding"
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/invited"
	"jembro/internal/core/meeting"
	"jembro/internal/core/rooms"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/everyfield"
	"jembro/internal/schedule"
)

// kind is one of what is kept, with a value in which every field is filled.
type kind struct {
	of    shape
	value reflect.Value
	write func() []byte
	read  func(raw []byte) (any, error)
}

func object[T any](t *testing.T, of shape) kind {
	var v T
	fill(t, &v)
	return kind{of, reflect.ValueOf(v), func() []byte { return of.write(v) }, func(raw []byte) (any, error) {
		var back T
		err := of.read(raw, &back)
		return back, err
	}}
}

func list[T any](t *testing.T, of shape) kind {
	var v []T
	fill(t, &v)
	return kind{of, reflect.ValueOf(v), func() []byte { return writeAll(of, v) }, func(raw []byte) (any, error) { return readAll[T](of, raw) }}
}

func fill(t *testing.T, v any) {
	everyfield.Fill(t, v, everyfield.With{
		reflect.TypeFor[when.Day]():          when.DayOf(2027, 3, 5),
		reflect.TypeFor[when.Local]():        when.Local{Day: when.DayOf(2027, 3, 5), Clock: 9 * 60},
		reflect.TypeFor[when.Clock]():        when.Clock(9 * 60),
		reflect.TypeFor[say.What]():          say.It("series.noDate"),
		reflect.TypeFor[meeting.EventKind](): meeting.EventKind(""), // in a column beside it
	})
}

func kinds(t *testing.T) map[string]kind {
	return map[string]kind{
		"sheet": object[meeting.Draft](t, sheetShape), "fault": object[say.What](t, faultShape), "happened": object[meeting.Event](t, happenedShape),
		"news": object[newsFacts](t, newsShape), "reasons": list[rooms.Reason](t, reasonsShape), "invitation": object[invited.State](t, invitationShape),
		"heldBack": object[invited.Message](t, heldBackShape), "answers": list[schedule.InvitationAnswer](t, answersShape),
		"letter": list[schedule.AnswerIn](t, letterShape), "otherDays": list[otherDay](t, otherDaysShape),
	}
}

// TestWhatIsKeptComesBack: everything in every field, and what is kept by a program from before the
// shapes had numbers is the same.
func TestWhatIsKeptComesBack(t *testing.T) {
	for name, k := range kinds(t) {
		raw := k.write()
		assert.Contains(t, string(raw), `{"schema":1,`, name)
		back, err := k.read(raw)
		require.NoError(t, err, name)
		before, err := os.ReadFile(filepath.Join("testdata", "shapes", name+".0.json"))
		require.NoError(t, err, name)
		old, err := k.read(before)
		require.NoError(t, err, name)
		if name == "heldBack" { // whom else a message names is not kept
			k.value = reflect.ValueOf(back)
			assert.NotZero(t, k.value.FieldByName("OrganiserName").String())
		}
		assert.Equal(t, k.value.Interface(), back, name)
		assert.Equal(t, k.value.Interface(), old, "%s of before", name)
		_, err = k.read([]byte(`{"schema":2}`))
		assert.ErrorContains(t, err, "is kept in shape 2, which this program does not know", name)
	}
}

// TestEveryFieldThatIsKeptHasAName: what a field is called in the program can change without what
// is kept.
func TestEveryFieldThatIsKeptHasAName(t *testing.T) {
	for name, k := range kinds(t) {
		named(t, name, k.value.Type())
	}
	for _, v := range []any{snapshot{}, storedRules{}, schedule.StoredCard{}} {
		named(t, reflect.TypeOf(v).Name(), reflect.TypeOf(v))
	}
}

// named looks at the fields of a type, all the way down; what writes itself names itself.
func named(t *testing.T, at string, of reflect.Type) {
	switch of.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Array, reflect.Map:
		named(t, at, of.Elem())
		return
	case reflect.Struct:
	default:
		return
	}
	pointer := reflect.PointerTo(of)
	if pointer.Implements(reflect.TypeFor[json.Marshaler]()) || pointer.Implements(reflect.TypeFor[encoding.TextMarshaler]()) {
		return
	}
	for i := range of.NumField() {
		f := of.Field(i)
		tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.IsExported() && !f.Anonymous && tag == "" {
			t.Errorf("%s.%s is kept under what the program calls it: give it a name", at, f.Name)
		}
		if tag != "-" {
			named(t, at+"."+f.Name, f.Type)
		}
	}
}
