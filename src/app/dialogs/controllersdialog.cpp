#include "app/dialogs/controllersdialog.h"

#include "app/session/session.h"
#include "app/widgets/plots.h"
#include "song/model/levels.h"
#include "song/shape/edits.h"

#include <QComboBox>
#include <QHeaderView>
#include <QSpinBox>
#include <QTreeWidget>
#include <algorithm>

namespace cobbleway {
namespace {

enum What { Keep, Drop, IntoMix, Thin };

What whatIsDone(const Part& part, ControllerId id) {
    const auto plan = part.recipe.controllers.find(id);
    if (plan == part.recipe.controllers.end()) return Keep;
    return plan->second.drop ? Drop : Thin;
}

QString whatText(const Part& part, const ControllerUse& use) {
    switch (whatIsDone(part, use.controller)) {
    case Drop: return QObject::tr("dropped");
    case Thin: return QObject::tr("thinned to %1").arg(use.kept);
    default: return QObject::tr("kept");
    }
}

std::vector<StepsPicture::Point> stepsOf(const std::vector<ControlPoint>& points) {
    std::vector<StepsPicture::Point> steps;
    steps.reserve(points.size());
    for (const ControlPoint& point : points)
        steps.push_back({static_cast<double>(point.tick), double(point.value)});
    return steps;
}

} // namespace

ControllersDialog::ControllersDialog(Uses<uses::Set> session, QWidget* parent)
    : Form(tr("Controllers"), parent), m_session(session), m_list(new QTreeWidget), m_what(new QComboBox),
      m_tolerance(new QSpinBox), m_picture(new StepsPicture(tr("The controller along the song"))),
      m_said(mutedLabel()) {
    setPreferredWidth(700);
    m_list->setHeaderLabels(
        {tr("Controller"), tr("Events"), tr("Values"), tr("Moves"), tr("What to do with it")});
    m_list->setRootIsDecorated(false);
    m_list->setAccessibleName(tr("Controllers"));
    m_list->setObjectName(QStringLiteral("controllers"));
    const int widths[] = {220, 80, 100, 70};
    for (int i = 0; i < 4; ++i) m_list->header()->resizeSection(i, widths[i]);
    m_what->addItem(tr("Keep as it is"), Keep);
    m_what->addItem(tr("Drop"), Drop);
    m_what->addItem(tr("Turn into the part's level or place"), IntoMix);
    m_what->addItem(tr("Thin"), Thin);
    m_what->setObjectName(QStringLiteral("what"));
    m_tolerance->setObjectName(QStringLiteral("tolerance"));
    column()->addWidget(m_list, 1);
    column()->addLayout(
        row({labelled(tr("&What to do with it"), m_what), labelled(tr("&Within"), m_tolerance)}));
    column()->addWidget(m_picture);
    column()->addWidget(m_said);
    addButtons({}, tr("Close"));
    connect(m_list, &QTreeWidget::currentItemChanged, this, &ControllersDialog::refreshChoice);
    connect(m_what, &QComboBox::activated, this, &ControllersDialog::apply);
    connect(m_tolerance, &QSpinBox::valueChanged, this, [this] {
        if (!m_filling && m_what->currentData() == Thin) apply();
    });
    follow(session.current, Side::Notes | Side::Names, this, &ControllersDialog::refresh);
    connect(&session.current, &CurrentSet::selectionChanged, this, &ControllersDialog::refresh);
    refresh();
}

ControllerId ControllersDialog::current() const {
    const auto* item = m_list->currentItem();
    return item ? item->data(0, Qt::UserRole).toInt() : -1;
}

void ControllersDialog::refresh() {
    const ControllerId before = current();
    const Part* part = m_session.current.part();
    m_filling = true;
    m_list->clear();
    m_uses = part ? controllersOf(m_session.current.song(), part->source, part->recipe)
                  : std::vector<ControllerUse>{};
    for (const ControllerUse& use : m_uses) {
        const bool bend = use.controller == pitchBendId;
        const int middle = bend ? 8192 : 0;
        auto* item = new QTreeWidgetItem(
            m_list, {QString::fromStdString(controllerName(use.controller)), QString::number(use.events),
                     use.lowest == use.highest
                         ? QString::number(use.lowest - middle)
                         : QStringLiteral("%1 – %2").arg(use.lowest - middle).arg(use.highest - middle),
                     use.moves ? tr("yes") : tr("no"), whatText(*part, use)});
        item->setData(0, Qt::UserRole, use.controller);
        if (use.controller == before || !m_list->currentItem()) m_list->setCurrentItem(item);
    }
    m_filling = false;
    setHeading(part ? tr("Controllers of %1").arg(QString::fromStdString(part->name)) : QString());
    refreshChoice();
}

void ControllersDialog::refreshChoice() {
    if (m_filling) return;
    const Part* part = m_session.current.part();
    const ControllerId id = current();
    const auto use = std::find_if(m_uses.begin(), m_uses.end(),
                                  [id](const ControllerUse& u) { return u.controller == id; });
    const bool any = part && use != m_uses.end();
    m_what->setEnabled(any);
    if (!any) {
        m_tolerance->setEnabled(false);
        m_picture->setPoints({}, {}, 1, 0, 1);
        m_said->setText(tr("This part has no controllers."));
        return;
    }
    m_filling = true;
    const What now = whatIsDone(*part, id);
    m_what->setCurrentIndex(m_what->findData(now));
    m_tolerance->setEnabled(canThin(id));
    m_tolerance->setRange(0, id == pitchBendId ? 4096 : 32);
    m_tolerance->setSuffix(id == pitchBendId ? tr(" of 8192") : tr(" of 127"));
    const auto plan = part->recipe.controllers.find(id);
    const int tolerance = now == Thin ? plan->second.tolerance : (id == pitchBendId ? 16 : 1);
    m_tolerance->setValue(tolerance);
    m_filling = false;
    const auto points = controlPoints(m_session.current.song(), part->source, id);
    const auto thin = canThin(id) ? thinned(points, tolerance) : points;
    m_picture->setPoints(stepsOf(points), now == Thin ? stepsOf(thin) : std::vector<StepsPicture::Point>{},
                         static_cast<double>(m_session.current.song().end), id == pitchBendId ? 0 : 0,
                         id == pitchBendId ? 16383 : 127);
    QString said = tr("%1 events in the file.").arg(points.size());
    if (canThin(id))
        said += tr(" Thinned to within %1, %2 are left; no value is off by more.")
                    .arg(tolerance)
                    .arg(thin.size());
    else
        said += tr(" It is a switch or a selection, which cannot be thinned.");
    m_said->setText(said);
    m_picture->setSummary(said);
}

void ControllersDialog::apply() {
    const Part* part = m_session.current.part();
    const ControllerId id = current();
    if (!part || id < 0) return;
    const PartId to = part->id;
    const QString name = QString::fromStdString(controllerName(id));
    // Going through the choices by arrow keys, to hear them, is one edit.
    const QString gesture = QStringLiteral("controller %1 %2").arg(to).arg(id);
    switch (static_cast<What>(m_what->currentData().toInt())) {
    case Keep:
        return m_session.current.edit(
            tr("Keep %1").arg(name), [=](const Song& s) { return edits::keepController(s, to, id); },
            gesture);
    case Drop:
        return m_session.current.edit(
            tr("Drop %1").arg(name), [=](const Song& s) { return edits::dropController(s, to, id); },
            gesture);
    case Thin: {
        if (!canThin(id)) break;
        const int tolerance = m_tolerance->value();
        return m_session.current.edit(
            tr("Thin %1").arg(name),
            [=](const Song& s) { return edits::thinController(s, to, id, tolerance); }, gesture);
    }
    case IntoMix: {
        const Song& song = m_session.current.song();
        if (edits::controllerIntoMix(song, to, id) == song) break;
        return m_session.current.edit(
            tr("Turn %1 into level").arg(name),
            [=](const Song& s) { return edits::controllerIntoMix(s, to, id); }, gesture);
    }
    }
    refreshChoice(); // the choice could not be taken
    m_said->setText(
        m_what->currentData() == Keep
            ? tr("That cannot be done with %1: only volume, expression and pan that do not move become the "
                 "part's, and only controllers that glide can be thinned.")
                  .arg(name)
            : m_said->text());
    announce(this, m_said->text());
}

} // namespace cobbleway
