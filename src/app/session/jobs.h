#pragma once
#include "midi/result.h"

#include <QCoreApplication>
#include <QMetaObject>
#include <QPointer>
#include <QThreadPool>
#include <exception>
#include <new>
#include <stop_token>

namespace cobbleway {

/// Why a job gave nothing, as an error for people.
inline Error jobError(const std::exception_ptr& thrown) {
    try {
        std::rethrow_exception(thrown);
    } catch (const std::bad_alloc&) {
        return {{"error.memory"}, {}, {"now.less-memory"}};
    } catch (const std::exception& error) {
        return {{"error.exception", {{"reason", std::string(error.what())}}}, {}, {"now.try-again"}};
    } catch (...) { return {{"error.unknown"}, {}, {"now.try-again"}}; }
}

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
            } catch (...) { return jobError(std::current_exception()); }
        }());
        QMetaObject::invokeMethod(qApp, [guard, result, done = std::move(done)]() mutable {
            if (guard) done(std::move(*result));
        });
    });
}

} // namespace cobbleway
