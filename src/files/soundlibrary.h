/// What the writers of sound files share of libsndfile.
#pragma once
#include "files/soundformat.h"

#include <memory>
#include <sndfile.h>

namespace cobbleway {

struct CloseSound {
    void operator()(SNDFILE* file) const { sf_close(file); }
};
using SoundHandle = std::unique_ptr<SNDFILE, CloseSound>;

/// libsndfile's number for a format.
int libraryCode(SoundFormat format);

} // namespace cobbleway
