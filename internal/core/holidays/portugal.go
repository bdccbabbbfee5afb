package holidays

import (
	"time"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/aa"
)

// portugal has the national holidays of Portugal (Código do Trabalho, article
// 234), which rickar/cal lacks.
var portugal = []*cal.Holiday{
	named(aa.NewYear, "Ano Novo"), named(aa.GoodFriday, "Sexta-feira Santa"), named(aa.Easter, "Páscoa"),
	fixed("Dia da Liberdade", time.April, 25), named(aa.WorkersDay, "Dia do Trabalhador"), named(aa.CorpusChristi, "Corpo de Deus"),
	fixed("Dia de Portugal", time.June, 10), named(aa.AssumptionOfMary, "Assunção de Nossa Senhora"),
	fixed("Implantação da República", time.October, 5), named(aa.AllSaintsDay, "Todos os Santos"),
	fixed("Restauração da Independência", time.December, 1), named(aa.ImmaculateConception, "Imaculada Conceição"), named(aa.ChristmasDay, "Natal"),
}

func named(h *cal.Holiday, name string) *cal.Holiday {
	return h.Clone(&cal.Holiday{Name: name, Type: cal.ObservancePublic})
}

func fixed(name string, month time.Month, day int) *cal.Holiday {
	return &cal.Holiday{Name: name, Type: cal.ObservancePublic, Month: month, Day: day, Func: cal.CalcDayOfMonth}
}
