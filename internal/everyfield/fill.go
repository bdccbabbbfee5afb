// Package everyfield fills values for tests: each field of a struct gets something that is not its zero,
// so that a field that some place forgets shows by itself.
package everyfield

import (
	"fmt"
	"reflect"
	"testing"
	"time"
)

// With are the values of types that have rules of their own.
type With map[reflect.Type]any

// Fill fills what v points to, all the way down: texts that differ, numbers that differ, true, one
// element, one key. Fields that are not exported stay.
func Fill(t testing.TB, v any, with With) {
	t.Helper()
	f := filler{t: t, with: with}
	f.fill(reflect.ValueOf(v).Elem(), "")
}

type filler struct {
	t    testing.TB
	with With
	n    int
}

func (f *filler) fill(v reflect.Value, at string) {
	f.n++
	if x, is := f.with[v.Type()]; is {
		v.Set(reflect.ValueOf(x).Convert(v.Type()))
		return
	}
	switch v.Interface().(type) {
	case time.Time:
		v.Set(reflect.ValueOf(time.Date(2027, 3, 1, 9, f.n%60, 0, 0, time.UTC)))
		return
	}
	switch v.Kind() {
	case reflect.String:
		v.SetString(fmt.Sprintf("x%d", f.n))
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		v.SetInt(int64(f.n))
	case reflect.Uint, reflect.Uint8, reflect.Uint16, reflect.Uint32, reflect.Uint64:
		v.SetUint(uint64(f.n % 200))
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		f.fill(v.Elem(), at)
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		f.fill(v.Index(0), at)
	case reflect.Array:
		for i := range v.Len() {
			f.fill(v.Index(i), at)
		}
	case reflect.Map:
		key, value := reflect.New(v.Type().Key()).Elem(), reflect.New(v.Type().Elem()).Elem()
		f.fill(key, at)
		f.fill(value, at)
		v.Set(reflect.MakeMap(v.Type()))
		v.SetMapIndex(key, value)
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				f.fill(v.Field(i), at+"."+v.Type().Field(i).Name)
			}
		}
	default:
		f.t.Fatalf("%s: give a value for %s", at, v.Type())
	}
}
