package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"velvetroad/core/stock"
)

// stockMove is a movement's row.
type stockMove struct {
	Seq    int64 `gorm:"primaryKey"`
	CrewID int64
	ID     string
	Move   json.RawMessage `gorm:"type:jsonb"`
}

func (stockMove) TableName() string { return "stock_moves" }

// Stocked is a crew's book of stock, with the number of its last movement.
type Stocked struct {
	Moves []stock.Move
	Book  stock.Book
	Last  int64
}

// Stock is the crew's book. It is added up once for each newest movement that this program sees.
func (c Crew) Stock(ctx context.Context) (Stocked, error) {
	var last int64
	if err := c.mine(ctx).Model(&stockMove{}).Select("COALESCE(max(seq), 0)").Scan(&last).Error; err != nil {
		return Stocked{}, fault(err)
	}
	if was, ok := c.s.stocked.Load(c.id); ok && was.(Stocked).Last == last {
		return was.(Stocked), nil
	}
	now, err := c.stock(c.s.db.WithContext(ctx))
	if err == nil {
		c.s.stocked.Store(c.id, now)
	}
	return now, err
}

func (c Crew) stock(db *gorm.DB) (out Stocked, err error) {
	var rows []stockMove
	if err := of(db, c.id).Order("seq").Find(&rows).Error; err != nil {
		return out, fault(err)
	}
	for _, r := range rows {
		var m stock.Move
		if err := json.Unmarshal(r.Move, &m); err != nil {
			return out, err
		}
		out.Moves, out.Last = append(out.Moves, m), r.Seq
	}
	out.Book = stock.Of(out.Moves)
	return out, nil
}

// ErrMove is of a movement that cannot be.
var ErrMove = errors.New("it cannot be moved")

// Move writes movements into the book, all or none; one that is there already is not written
// again. The error is ErrMove with the reason where one cannot be.
func (c Crew) Move(ctx context.Context, moves ...stock.Move) error {
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// One after the other: each must be possible with what those before it left.
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Select("id").Where("id = ?", c.id).Take(&crewRow{}).Error; err != nil {
			return fault(err)
		}
		now, err := c.stock(tx)
		if err != nil {
			return err
		}
		had, of := map[string]stock.Move{}, map[string][]stock.Move{}
		for _, m := range now.Moves {
			had[m.ID] = m
			of[m.Item] = append(of[m.Item], m)
		}
		var rows []stockMove
		for n, m := range moves {
			if was, sent := had[m.ID]; sent {
				if !was.Same(m) {
					return refused(n, len(moves), "this was written down already, and otherwise; load the page again and look at what is there")
				}
				continue
			}
			if why := stock.Of(of[m.Item]).Refuse(m); why != "" { // no other item bears on it
				return refused(n, len(moves), why)
			}
			text, err := json.Marshal(m)
			if err != nil {
				return err
			}
			had[m.ID], of[m.Item] = m, append(of[m.Item], m)
			rows = append(rows, stockMove{CrewID: c.id, ID: m.ID, Move: text})
		}
		if len(rows) == 0 {
			return nil
		}
		return fault(tx.Omit("Seq").CreateInBatches(&rows, 500).Error)
	})
}

// stockCard is a card's row.
type stockCard struct {
	CrewID int64           `gorm:"primaryKey"`
	Item   string          `gorm:"primaryKey"`
	Card   json.RawMessage `gorm:"type:jsonb"`
}

func (stockCard) TableName() string { return "stock_cards" }

// supplierRow is a supplier's row.
type supplierRow struct {
	CrewID   int64           `gorm:"primaryKey"`
	Name     string          `gorm:"primaryKey"`
	Supplier json.RawMessage `gorm:"type:jsonb"`
}

func (supplierRow) TableName() string { return "suppliers" }

// Shop is what the crew keeps about its items and suppliers, these by name.
func (c Crew) Shop(ctx context.Context) (out stock.Shop, err error) {
	var cards []stockCard
	if err := of(c.s.db.WithContext(ctx), c.id).Find(&cards).Error; err != nil {
		return out, fault(err)
	}
	out.Cards = make(map[string]stock.Card, len(cards))
	for _, r := range cards {
		var one stock.Card
		if err := json.Unmarshal(r.Card, &one); err != nil {
			return out, err
		}
		out.Cards[r.Item] = one
	}
	var by []supplierRow
	if err := of(c.s.db.WithContext(ctx), c.id).Order("name").Find(&by).Error; err != nil {
		return out, fault(err)
	}
	for _, r := range by {
		var one stock.Supplier
		if err := json.Unmarshal(r.Supplier, &one); err != nil {
			return out, err
		}
		out.Suppliers = append(out.Suppliers, one)
	}
	return out, nil
}

// SetCards keeps cards, each in place of the one of its item; one that says nothing goes. The
// error is ErrMove with the reason where one cannot be, and then none is kept.
func (c Crew) SetCards(ctx context.Context, cards ...stock.Card) error {
	var rows []stockCard
	var gone []string
	for n, card := range cards {
		if why := card.Wrong(); why != "" {
			return refused(n, len(cards), why)
		}
		if card == (stock.Card{Item: card.Item}) {
			gone = append(gone, card.Item)
			continue
		}
		text, err := json.Marshal(card)
		if err != nil {
			return err
		}
		rows = append(rows, stockCard{CrewID: c.id, Item: card.Item, Card: text})
	}
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if len(gone) > 0 {
			if err := of(tx, c.id).Where("item IN ?", gone).Delete(&stockCard{}).Error; err != nil {
				return fault(err)
			}
		}
		if len(rows) == 0 {
			return nil
		}
		return fault(tx.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(&rows, 500).Error)
	})
}

// refused is ErrMove with the reason, and with the row where there are several.
func refused(row, of int, why string) error {
	if of > 1 {
		return fmt.Errorf("%w: row %d: %s", ErrMove, row+1, why)
	}
	return fmt.Errorf("%w: %s", ErrMove, why)
}

// SetSupplier keeps a supplier, in place of the one of its name. The error is ErrMove with the
// reason where it cannot be.
func (c Crew) SetSupplier(ctx context.Context, s stock.Supplier) error {
	if why := s.Wrong(); why != "" {
		return refused(0, 1, why)
	}
	text, err := json.Marshal(s)
	if err != nil {
		return err
	}
	row := supplierRow{CrewID: c.id, Name: s.Name, Supplier: text}
	return fault(c.s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
}

// DropSupplier lets go of a supplier; items keep its name.
func (c Crew) DropSupplier(ctx context.Context, name string) error {
	return fault(of(c.s.db.WithContext(ctx), c.id).Where("name = ?", name).Delete(&supplierRow{}).Error)
}
