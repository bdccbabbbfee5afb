package conference

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser"
	"github.com/expr-lang/expr/vm"

	"jembro/internal/core/say"
	"jembro/internal/schedule/links"
)

// values is what expressions can name.
type values struct {
	Title     string            `expr:"title"`
	Start     time.Time         `expr:"start"`
	End       time.Time         `expr:"end"`
	Minutes   int               `expr:"minutes"`
	People    int               `expr:"people"`
	Repeats   bool              `expr:"repeats"`
	Zone      string            `expr:"zone"`
	Organiser string            `expr:"organiser"`
	Waits     string            `expr:"waits"`
	Speaks    string            `expr:"speaks"`
	Starts    string            `expr:"starts"`
	Passcode  string            `expr:"passcode"`
	Keep      map[string]string `expr:"keep"`
	Value     string            `expr:"value"`  // with as
	Status    int               `expr:"status"` // with when
	// Answer is what stands at a path of the answer, with when.
	Answer func(path string) string `expr:"answer"`
}

// functions are all that expressions can call. There are no loops, no variables and nothing
// that makes a text longer than what is written: an expression costs what it is long.
var functions = []expr.Option{
	function("rfc3339", func(t time.Time) string { return timed(t, time.RFC3339) }),
	function("day", func(t time.Time) string { return timed(t, time.DateOnly) }),
	function("clock", func(t time.Time) string { return timed(t, "15:04") }),
	function("unix", func(t time.Time) int { return int(t.Unix()) }),
	function("digits", func(s string) string {
		return strings.Map(func(r rune) rune {
			if !unicode.IsDigit(r) {
				return -1
			}
			return r
		}, s)
	}),
	function("lower", strings.ToLower),
	function("upper", strings.ToUpper),
	function("trim", strings.TrimSpace),
	expr.Function("text", func(args ...any) (any, error) { return fmt.Sprint(args[0]), nil }, new(func(any) string)),
	expr.Function("groups", func(args ...any) (any, error) { return grouped(args[0].(string), args[1:]) },
		new(func(string, int) string), new(func(string, int, int) string), new(func(string, int, int, int) string), new(func(string, int, int, int, int) string)),
}

func function[In, Out any](name string, f func(In) Out) expr.Option {
	return expr.Function(name, func(args ...any) (any, error) { return f(args[0].(In)), nil }, f)
}

func timed(t time.Time, layout string) string {
	if t.IsZero() {
		return ""
	}
	return t.Format(layout)
}

// grouped is a text in pieces of the given lengths; what is left over is the last piece.
func grouped(s string, lengths []any) (string, error) {
	rest := []rune(s)
	var out []string
	for _, l := range lengths {
		n := l.(int)
		if n <= 0 {
			return "", errors.New("pieces have a length of at least 1")
		}
		if n = min(n, len(rest)); n > 0 {
			out, rest = append(out, string(rest[:n])), rest[n:]
		}
	}
	if len(rest) > 0 {
		out = append(out, string(rest))
	}
	return strings.Join(out, " "), nil
}

var functionNames = []string{"rfc3339", "day", "clock", "unix", "digits", "lower", "upper", "trim", "text", "groups", "answer"}

// compileExpression makes an expression ready; the error is a say.What.
func compileExpression(text string, more ...expr.Option) (*vm.Program, error) {
	if err := allowed(text); err != nil {
		return nil, err
	}
	options := append([]expr.Option{expr.Env(values{}), expr.DisableAllBuiltins(), expr.MaxNodes(200), expr.Optimize(false)}, functions...)
	p, err := expr.Compile(text, append(options, more...)...)
	if err != nil {
		return nil, expressionError(err)
	}
	return p, nil
}

func condition(text string) (*vm.Program, error) { return compileExpression(text, expr.AsBool()) }
func ofValue(text string) (*vm.Program, error)   { return compileExpression(text) }

func expressionError(err error) error {
	message := err.Error()
	var at *file.Error
	if errors.As(err, &at) {
		message = at.Message
	}
	if name, is := strings.CutPrefix(message, "unknown name "); is {
		if near := nearest(name, names); len(near) > 0 {
			return say.It("expression.unknownNear", name, near[0])
		}
		return say.It("expression.unknown", name)
	}
	return say.It("expression.none", strings.TrimSuffix(message, "."))
}

var names = append([]string{"title", "start", "end", "minutes", "people", "repeats", "zone", "organiser", "waits", "speaks", "starts", "passcode", "keep", "value", "status"}, functionNames...)

// allowed lets through what an expression needs, and nothing that could loop, grow or call
// methods of values.
func allowed(text string) error {
	tree, err := parser.Parse(text)
	if err != nil {
		return expressionError(err)
	}
	g := &guard{}
	ast.Walk(&tree.Node, g)
	return g.err
}

type guard struct{ err error }

func (g *guard) Visit(node *ast.Node) {
	switch n := (*node).(type) {
	case *ast.NilNode, *ast.IdentifierNode, *ast.IntegerNode, *ast.FloatNode, *ast.BoolNode, *ast.StringNode, *ast.UnaryNode, *ast.ConditionalNode, *ast.MemberNode, *ast.ChainNode:
	case *ast.BinaryNode:
		if n.Operator == ".." || n.Operator == "**" || n.Operator == "^" || n.Operator == "matches" {
			g.err = say.It("expression.notAllowed", n.Operator)
		}
	case *ast.CallNode:
		if id, is := n.Callee.(*ast.IdentifierNode); !is || !slices.Contains(functionNames, id.Value) {
			g.err = say.It("expression.calls", strings.Join(functionNames, ", "))
		}
	case *ast.BuiltinNode:
		if !slices.Contains(functionNames, n.Name) {
			g.err = say.It("expression.calls", strings.Join(functionNames, ", "))
		}
	default:
		g.err = say.It("expression.only")
	}
}

// run is what an expression comes to.
func run(p *vm.Program, v values) (any, error) {
	if v.Answer == nil {
		v.Answer = func(string) string { return "" }
	}
	return expr.Run(p, v)
}

// value is a constant, an expression, or fields or a list of such.
type value struct {
	constant any
	program  *vm.Program
	fields   map[string]value
	list     []value
}

// valueError is what is the matter with one field of a body.
type valueError struct {
	path string
	err  error
}

func (e *valueError) Error() string { return e.err.Error() }

func prepareValue(v any) (out value, err error) {
	switch v := v.(type) {
	case string:
		out.program, err = compileExpression(v)
	case map[string]any:
		out.fields = map[string]value{}
		for _, key := range slices.Sorted(maps.Keys(v)) {
			x, err := prepareValue(v[key])
			if err != nil {
				return out, within(key, err)
			}
			out.fields[key] = x
		}
	case []any:
		out.list = []value{}
		for i, item := range v {
			x, err := prepareValue(item)
			if err != nil {
				return out, within(strconv.Itoa(i), err)
			}
			out.list = append(out.list, x)
		}
	default:
		out.constant = v
	}
	return out, err
}

func within(key string, err error) error {
	var inner *valueError
	if errors.As(err, &inner) {
		return &valueError{key + "." + inner.path, inner.err}
	}
	return &valueError{key, err}
}

func (c *Connector) valueFaults(path string, err error) []links.DescriptionFault {
	var inner *valueError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &inner):
		return []links.DescriptionFault{c.fault(path+"."+inner.path, inner.err)}
	}
	return []links.DescriptionFault{c.fault(path, err)}
}

// fill is the value for one call. Fields that come to nothing are left out.
func (x value) fill(v values) (any, error) {
	switch {
	case x.program != nil:
		return run(x.program, v)
	case x.fields != nil:
		out := map[string]any{}
		for key, inner := range x.fields {
			filled, err := inner.fill(v)
			if err != nil {
				return nil, within(key, err)
			}
			if filled != nil && filled != "" {
				out[key] = filled
			}
		}
		return out, nil
	case x.list != nil:
		out := []any{}
		for i, inner := range x.list {
			filled, err := inner.fill(v)
			if err != nil {
				return nil, within(strconv.Itoa(i), err)
			}
			out = append(out, filled)
		}
		return out, nil
	}
	return x.constant, nil
}
