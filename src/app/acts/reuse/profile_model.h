// A profile as a table that is edited: the controls of a controller, or the parameters of an instrument.
//
// Columns and what typing into them does are the core's (profiles/columns.h), the same that are pasted and
// written as CSV. Every change is an edit of the document.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "app/document/document.h"
#include "app/widgets/cell_model.h"
#include "core/profiles/columns.h"

namespace mellow::app {

/// Whose profile.
struct ProfilePlace {
    enum class Of { controls, parameters, articulations } of = Of::controls;
    std::string id;  ///< of a controller, or of an instrument; empty: nobody's
    bool operator==(const ProfilePlace&) const = default;

    static ProfilePlace controls(std::string id) { return {Of::controls, std::move(id)}; }
    static ProfilePlace parameters(std::string id) { return {Of::parameters, std::move(id)}; }
    static ProfilePlace articulations(std::string id) { return {Of::articulations, std::move(id)}; }
    [[nodiscard]] bool isController() const { return of == Of::controls; }
};

class ProfileModel : public CellModel {
    Q_OBJECT

 public:
    explicit ProfileModel(Document& document, QObject* parent = nullptr);

    void show(const ProfilePlace& place);
    [[nodiscard]] const ProfilePlace& place() const { return place_; }
    /// Whose it is, as the document has them now; nullptr: it is the other's, or gone.
    [[nodiscard]] const Controller* controller() const;
    [[nodiscard]] const Instrument* instrument() const;

    void addRow();
    void removeThings(const std::vector<std::size_t>& rows);
    /// How a table of text would be taken in.
    [[nodiscard]] profiles::Understood understood(const profiles::Table& table) const;
    /// What would become of a row of it.
    struct RowToTake {
        enum class Becomes { aNewOne, anotherOne, theSame, nothing } becomes = Becomes::nothing;
        QString words;    ///< why it is nothing, or what of it is not understood
        QString changes;  ///< of another one: its cells before and after
    };
    struct Preview {
        std::vector<RowToTake> rows;  ///< a title's is nothing, without words
        int newRanges = 0;            ///< of parameters, in which some reach has no place
    };
    [[nodiscard]] Preview preview(const profiles::Table& table, const profiles::Understood& how) const;
    /// Takes it in, aside. carry: reaches that do not fit a new range go to the same place in it. Complaints;
    /// nothing where a person left it.
    std::optional<QStringList> take(const profiles::Table& table, const profiles::Understood& how, bool carry,
                                    const QString& saying);
    /// The cells of some rows, or all of them with titles.
    [[nodiscard]] profiles::Table table(const std::vector<std::size_t>& rows) const;
    [[nodiscard]] profiles::Table wholeTable() const;
    void renumber(const std::vector<std::size_t>& rows);

 protected:
    [[nodiscard]] int cellRows() const override;
    [[nodiscard]] std::vector<Column> cellColumns() const override;
    [[nodiscard]] QVariant cell(int row, int column, int role) const override;
    [[nodiscard]] Qt::ItemFlags use(int, int) const override { return Qt::ItemIsEditable; }
    QStringList type(const QString& act, const std::vector<Typed>& cells) override;

 private:
    Document& document_;
    ProfilePlace place_;
};

}  // namespace mellow::app
