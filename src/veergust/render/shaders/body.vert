#version 330 core
// Skinning: joint matrices (world · inverse bind) lie four texels a joint in a float texture.
uniform sampler2D joints;
uniform mat4 seen;
uniform vec4 flatten; // x: 1 lays the figure down as a shadow, y: height of the floor
in vec3 point;
in vec3 normal;
in vec4 riding;
in vec4 weight;
out vec3 world;
out vec3 facing;

mat4 joint(float index) {
    int row = int(index + 0.5);
    return mat4(texelFetch(joints, ivec2(0, row), 0), texelFetch(joints, ivec2(1, row), 0),
                texelFetch(joints, ivec2(2, row), 0), texelFetch(joints, ivec2(3, row), 0));
}

void main() {
    mat4 skin = joint(riding.x) * weight.x + joint(riding.y) * weight.y
              + joint(riding.z) * weight.z + joint(riding.w) * weight.w;
    vec4 place = skin * vec4(point, 1.0);
    world = place.xyz;
    facing = mat3(skin) * normal;
    if (flatten.x > 0.5) {
        float high = max(place.y - flatten.y, 0.0);
        place.xyz += vec3(0.32, 0.0, -0.22) * high;
        place.y = flatten.y + 0.004;
    }
    gl_Position = seen * vec4(place.xyz, 1.0);
}
