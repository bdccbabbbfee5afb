package conference

import (
	_ "embed"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/parser"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"

	"jembro/internal/core/say"
	"jembro/internal/schedule/links"
)

//go:embed description.schema.json
var schemaText string

const schemaURL = "https://jembro.example/provider-description.schema.json"

// schema is made when the first description is read.
var schema = sync.OnceValue(func() *jsonschema.Schema {
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(schemaText))
	if err != nil {
		panic(err) // it is part of the program
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource(schemaURL, doc); err != nil {
		panic(err)
	}
	return c.MustCompile(schemaURL)
})

// document is a description as YAML has it: its value, and the line of each field by its
// path, "calls.make.card.link" and "errors.0.when".
type document struct {
	value any
	lines map[string]int
}

const mostDepth = 12

func parse(text string) (d document, faults []links.DescriptionFault) {
	file, err := parser.ParseBytes([]byte(text), 0)
	if err != nil {
		return d, []links.DescriptionFault{yamlFault(err)}
	}
	if len(file.Docs) != 1 || file.Docs[0].Body == nil {
		return d, []links.DescriptionFault{{What: say.It("description.documents")}}
	}
	d.lines = map[string]int{}
	if fault := d.walk(file.Docs[0].Body, "", 0); fault != nil {
		return d, []links.DescriptionFault{*fault}
	}
	if err := yaml.Unmarshal([]byte(text), &d.value); err != nil {
		return d, []links.DescriptionFault{yamlFault(err)}
	}
	return d, nil
}

// walk notes the lines of fields. Anchors and aliases are refused: with them a short text can
// be a huge one.
func (d *document) walk(n ast.Node, path string, depth int) *links.DescriptionFault {
	line := 0
	if t := n.GetToken(); t != nil {
		line = t.Position.Line
	}
	if depth > mostDepth {
		return &links.DescriptionFault{Line: line, Path: path, What: say.It("description.nested")}
	}
	below := func(key string) string {
		if path == "" {
			return key
		}
		return path + "." + key
	}
	pair := func(v *ast.MappingValueNode) *links.DescriptionFault {
		if v.Key.IsMergeKey() {
			return &links.DescriptionFault{Line: line, Path: path, What: say.It("description.merge")}
		}
		key := below(v.Key.GetToken().Value)
		d.lines[key] = v.Key.GetToken().Position.Line
		return d.walk(v.Value, key, depth+1)
	}
	switch n := n.(type) {
	case *ast.AnchorNode, *ast.AliasNode, *ast.TagNode, *ast.DirectiveNode:
		return &links.DescriptionFault{Line: line, Path: path, What: say.It("description.anchors")}
	case *ast.MappingNode:
		for _, v := range n.Values {
			if fault := pair(v); fault != nil {
				return fault
			}
		}
	case *ast.MappingValueNode:
		return pair(n)
	case *ast.SequenceNode:
		for i, v := range n.Values {
			key := below(strconv.Itoa(i))
			if t := v.GetToken(); t != nil {
				d.lines[key] = t.Position.Line
			}
			if fault := d.walk(v, key, depth+1); fault != nil {
				return fault
			}
		}
	}
	return nil
}

// lineOf is the line of a field, or of the nearest one around it.
func lineOf(lines map[string]int, path string) int {
	for path != "" {
		if line := lines[path]; line > 0 {
			return line
		}
		path = path[:max(0, strings.LastIndexByte(path, '.'))]
	}
	return 0
}

// yamlFault is what is the matter with the YAML itself.
func yamlFault(err error) links.DescriptionFault {
	var at yaml.Error
	if !errors.As(err, &at) || at.GetToken() == nil {
		return links.DescriptionFault{What: say.It("description.yaml", strings.TrimSpace(strings.SplitN(err.Error(), "\n", 2)[0]))}
	}
	return links.DescriptionFault{Line: at.GetToken().Position.Line, What: say.It("description.yaml", at.GetMessage())}
}

// check compares a document with the schema.
func (d document) check() (faults []links.DescriptionFault) {
	err := schema().Validate(d.value)
	var invalid *jsonschema.ValidationError
	if err == nil {
		return nil
	}
	if !errors.As(err, &invalid) {
		return []links.DescriptionFault{{What: whatOf(err)}}
	}
	for _, e := range leaves(invalid) {
		path := strings.Join(e.InstanceLocation, ".")
		f := links.DescriptionFault{Path: path, What: schemaFault(e)}
		if more, is := e.ErrorKind.(*kind.AdditionalProperties); is && len(more.Properties) > 0 {
			f.Path = strings.TrimPrefix(path+"."+more.Properties[0], ".")
			f.Near = nearest(more.Properties[0], known())
		}
		if f.Line = lineOf(d.lines, f.Path); f.Line == 0 {
			f.Line = 1
		}
		if !slices.ContainsFunc(faults, func(o links.DescriptionFault) bool { return o.Path == f.Path && o.What.Error() == f.What.Error() }) {
			faults = append(faults, f)
		}
	}
	slices.SortStableFunc(faults, func(a, b links.DescriptionFault) int { return a.Line - b.Line })
	return faults[:min(len(faults), 20)]
}

// known are all names that the schema has for fields.
var known = sync.OnceValue(func() (names []string) {
	var collect func(any)
	collect = func(v any) {
		switch v := v.(type) {
		case map[string]any:
			if props, is := v["properties"].(map[string]any); is {
				for name := range props {
					names = append(names, name)
				}
			}
			for _, x := range v {
				collect(x)
			}
		case []any:
			for _, x := range v {
				collect(x)
			}
		}
	}
	doc, _ := jsonschema.UnmarshalJSON(strings.NewReader(schemaText))
	collect(doc)
	slices.Sort(names)
	return slices.Compact(names)
})

// leaves are the errors that say something. Where one of several forms would do, those of the
// form that comes nearest are meant: the one that is wrong the deepest.
func leaves(e *jsonschema.ValidationError) (out []*jsonschema.ValidationError) {
	if len(e.Causes) == 0 {
		return []*jsonschema.ValidationError{e}
	}
	switch e.ErrorKind.(type) {
	case *kind.OneOf, *kind.AnyOf:
		if len(e.InstanceLocation) == 2 && e.InstanceLocation[0] == "calls" {
			return []*jsonschema.ValidationError{e}
		}
		best, depth := []*jsonschema.ValidationError(nil), -1
		for _, c := range e.Causes {
			all := leaves(c)
			if slices.ContainsFunc(all, func(l *jsonschema.ValidationError) bool { _, is := l.ErrorKind.(*kind.Const); return is }) {
				continue // of another kind of sign-in
			}
			deepest := 0
			for _, l := range all {
				deepest = max(deepest, len(l.InstanceLocation))
			}
			if deepest > depth {
				best, depth = all, deepest
			}
		}
		if best != nil {
			return best
		}
		return []*jsonschema.ValidationError{e}
	}
	for _, c := range e.Causes {
		out = append(out, leaves(c)...)
	}
	return out
}

// schemaFault is what an error of the schema says.
func schemaFault(e *jsonschema.ValidationError) say.What {
	field := say.It("description.whole")
	if n := len(e.InstanceLocation); n > 0 {
		field = say.It("description.named", e.InstanceLocation[n-1])
	}
	switch k := e.ErrorKind.(type) {
	case *kind.Required:
		return say.It("description.needs", field, strings.Join(k.Missing, "”, “"))
	case *kind.AdditionalProperties:
		return say.It("description.noField", strings.Join(k.Properties, "”, “"))
	case *kind.Enum:
		var can []string
		for _, w := range k.Want {
			can = append(can, fmt.Sprint(w))
		}
		return say.It("description.oneOf", field, fmt.Sprint(k.Got), strings.Join(can, ", "))
	case *kind.Type:
		return say.It("description.hasToBe", field, typeWhat(k.Want))
	case *kind.Pattern, *kind.PropertyNames:
		return say.It("description.form", field)
	case *kind.MinLength, *kind.MinItems, *kind.MinProperties:
		return say.It("description.isEmpty", field)
	case *kind.MaxLength:
		return say.It("description.textLong", field, k.Want, k.Got)
	case *kind.MaxItems, *kind.MaxProperties:
		return say.It("description.parts", field)
	case *kind.Minimum:
		return say.It("description.least", field, k.Want.RatString())
	case *kind.Maximum:
		return say.It("description.most", field, k.Want.RatString())
	case *kind.UniqueItems:
		return say.It("description.twice", field)
	case *kind.OneOf, *kind.AnyOf:
		if len(e.InstanceLocation) == 2 && e.InstanceLocation[0] == "calls" {
			return say.It("description.oneAddress", field)
		}
	}
	return say.It("description.form", field)
}

var typeCodes = map[string]say.Code{"string": "type.text", "integer": "type.integer", "number": "type.number", "boolean": "type.boolean",
	"object": "type.fields", "array": "type.list", "null": "type.nothing"}

// typeWhat is one type, or either of several.
func typeWhat(types []string) (what say.What) {
	for _, t := range types {
		if one := say.It(typeCodes[t]); what.Empty() {
			what = one
		} else {
			what = say.It("either", what, one)
		}
	}
	return what
}
