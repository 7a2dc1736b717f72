#pragma once
#include "midi/thrown.h"

#include <QCoreApplication>
#include <QMetaObject>
#include <QPointer>
#include <QThreadPool>
#include <stop_token>

namespace cobbleway {

template <class T> struct ResultOf { using type = Result<T>; };
template <class T> struct ResultOf<Result<T>> { using type = Result<T>; };

/// Long work beside the interface: takes values, gives one value. What it throws becomes an error.
///
/// `work` runs on a thread of `pool`; `done` gets what it gives as a Result, on the interface thread, unless
/// `owner` is gone. Work that can last takes a stop token by value and looks at it.
template <class Work, class Done> void runJob(QObject* owner, QThreadPool* pool, Work work, Done done) {
    using Outcome = typename ResultOf<decltype(work())>::type;
    QPointer<QObject> guard(owner);
    pool->start([guard, work = std::move(work), done = std::move(done)]() mutable {
        auto result = std::make_shared<Outcome>([&]() -> Outcome {
            try {
                return work();
            } catch (...) { return thrownError(std::current_exception()); }
        }());
        QMetaObject::invokeMethod(qApp, [guard, result, done = std::move(done)]() mutable {
            if (guard) done(std::move(*result));
        });
    });
}

} // namespace cobbleway
