#pragma once
#include <QCoreApplication>
#include <QMetaObject>
#include <QPointer>
#include <QThreadPool>
#include <functional>
#include <stop_token>

namespace cobbleway {

/// Long work beside the interface: takes values, gives one value, can be stopped.
///
/// `work` runs on a thread of `pool`; `done` gets its result on the interface thread, unless `owner` is gone.
template <class Work, class Done> void runJob(QObject* owner, QThreadPool* pool, Work work, Done done) {
    QPointer<QObject> guard(owner);
    pool->start([guard, work = std::move(work), done = std::move(done)]() mutable {
        auto result = std::make_shared<decltype(work())>(work());
        QMetaObject::invokeMethod(qApp, [guard, result, done = std::move(done)]() mutable {
            if (guard) done(std::move(*result));
        });
    });
}

} // namespace cobbleway
